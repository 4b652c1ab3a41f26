import { join, resolve } from 'node:path';
import { runProgram as run } from '../../../scripts/outside-programs';

export interface Written {
	/** 24, 25, 30, or those by 1000/1001. */
	readonly fps: number;
	readonly dropFrame?: boolean;
	/** Label of the first frame: hours, minutes, seconds, frames. */
	readonly start?: readonly [number, number, number, number];
	readonly frames?: number;
	readonly isReversed?: boolean;
	readonly sampleRate?: number;
}

/** Linear timecode as Debian's libltc writes it, compiled into a folder. @returns its writer; full scale is ±1 */
export async function linearTimecodeWriter(folder: string): Promise<(what: Written) => Promise<Float32Array>> {
	const program = join(folder, 'encode');
	await run('gcc', ['-O2', '-o', program, resolve(import.meta.dirname, 'encode.c'), '-lltc', '-lm']);
	return async ({
		fps,
		dropFrame = false,
		start = [9, 59, 57, 10],
		frames = 250,
		isReversed = false,
		sampleRate = 48_000
	}) => {
		const numbers = [sampleRate, fps, dropFrame ? 1 : 0, ...start, frames, isReversed ? 1 : 0];
		const { stdout } = await run(program, numbers.map(String), { encoding: 'buffer', maxBuffer: 2 ** 28 });
		return Float32Array.from(stdout, (byte) => (byte - 128) / 128);
	};
}
