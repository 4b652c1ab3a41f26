import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../demo/random';
import { ANALYSIS_SAMPLE_RATE, toAnalysisSound } from './band-features';
import { risesIn, strongestSharpSounds } from './sharp-sounds';

function murmur(seconds: number, level: number): Float32Array {
	const random = seededRandom(5);
	return Float32Array.from({ length: seconds * ANALYSIS_SAMPLE_RATE }, () => level * (random() + random() - 1));
}

function addClap(samples: Float32Array, atSeconds: number, level: number): void {
	const random = seededRandom(Math.round(atSeconds * 1000));
	for (let i = 0; i < 0.05 * ANALYSIS_SAMPLE_RATE; i++) {
		const index = Math.round(atSeconds * ANALYSIS_SAMPLE_RATE) + i;
		samples[index] = samples[index]! + level * Math.exp(-i / 60) * (random() * 2 - 1);
	}
}

describe('sharp sounds', () => {
	it('are found to a few milliseconds, in order of time', () => {
		const samples = murmur(30, 0.01);
		for (const at of [3.25, 17.5, 28.125]) addClap(samples, at, 0.7);
		const found = strongestSharpSounds(risesIn(toAnalysisSound(samples)));
		expect(found.map((one) => Math.round(one.seconds * 100) / 100)).toEqual([3.25, 17.5, 28.13]);
	});

	it('are none in steady noise, nor where a voice begins and goes on', () => {
		expect(strongestSharpSounds(risesIn(toAnalysisSound(murmur(20, 0.1))))).toEqual([]);
		const samples = murmur(10, 0.002);
		const voice = murmur(5, 0.2);
		for (let i = 0; i < voice.length; i++) samples[i + 3 * ANALYSIS_SAMPLE_RATE] = voice[i]!;
		expect(strongestSharpSounds(risesIn(toAnalysisSound(samples)))).toEqual([]);
	});
});
