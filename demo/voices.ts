import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Line, type PersonKey, PEOPLE, SAMPLE_RATE } from './scene';
import { runProgram as run } from '../scripts/outside-programs';

export interface SpokenLine {
	readonly who: PersonKey;
	readonly beginsSeconds: number;
	readonly samples: Float32Array;
}

/** Speaks the lines one after another with espeak-ng, softened a little, at 48 kHz. */
export async function speak(lines: readonly Line[], beginsSeconds: number): Promise<readonly SpokenLine[]> {
	const folder = await mkdtemp(join(tmpdir(), 'open-choir-voices-'));
	try {
		const spoken: SpokenLine[] = [];
		let now = beginsSeconds;
		for (const [index, line] of lines.entries()) {
			const person = PEOPLE.find((one) => one.key === line.who)!;
			const wav = join(folder, `${index}.wav`);
			const raw = join(folder, `${index}.f32`);
			await run('espeak-ng', [
				'-v',
				person.voice,
				'-p',
				`${person.pitch}`,
				'-s',
				`${person.wordsPerMinute}`,
				'-g',
				'2',
				'-w',
				wav,
				line.text
			]);
			const soften =
				'aresample=48000:resampler=soxr,highpass=f=90,equalizer=f=250:t=q:w=1:g=3,equalizer=f=3800:t=q:w=1:g=-5,lowpass=f=7500,silenceremove=start_periods=1:start_threshold=-50dB,areverse,silenceremove=start_periods=1:start_threshold=-50dB,areverse';
			await run('ffmpeg', ['-v', 'error', '-i', wav, '-af', soften, '-ac', '1', '-f', 'f32le', raw]);
			const bytes = await readFile(raw);
			const samples = levelled(new Float32Array(bytes.buffer, bytes.byteOffset, bytes.length >> 2).slice());
			now += line.pause;
			spoken.push({ who: line.who, beginsSeconds: now, samples });
			now += samples.length / SAMPLE_RATE;
		}
		return spoken;
	} finally {
		await rm(folder, { recursive: true });
	}
}

/** Brings a line to -20 dB (mean square), so that nobody shouts. */
function levelled(samples: Float32Array): Float32Array {
	let power = 0;
	for (const sample of samples) power += sample * sample;
	const gain = 0.1 / Math.sqrt(power / samples.length);
	for (let i = 0; i < samples.length; i++) samples[i] = samples[i]! * gain;
	return samples;
}
