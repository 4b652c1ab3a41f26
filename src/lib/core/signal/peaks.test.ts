import { describe, expect, it } from 'vitest';
import { createPeakBuilder, peakLevels } from './peaks';

describe('peaks', () => {
	it('hold least and greatest of each block over all channels, at every scale', () => {
		// More than the builder has room for at first.
		const samples = 256 * 33_000 + 17;
		const sound = new Int16Array(samples * 2);
		sound[2 * 300] = 9000; // sample 300, left: block 1
		sound[2 * (samples - 1) + 1] = -12000; // last sample, right
		const builder = createPeakBuilder(2);
		builder.add(sound.subarray(0, 1001));
		builder.add(sound.subarray(1001));
		const { samples: counted, peaks } = builder.finish();
		expect(counted).toBe(samples);
		const levels = peakLevels(samples);
		expect(levels.map((level) => level.blocks)).toEqual([33_001, 8251, 2063, 516, 129]);
		expect([...peaks.subarray(0, 4)]).toEqual([0, 0, 0, 9000]);
		for (const level of levels) {
			expect(peaks[level.at + 2 * (level.blocks - 1)]).toBe(-12000);
			const at = Math.floor(300 / level.blockSamples);
			expect(peaks[level.at + 2 * at + 1]).toBe(9000);
		}
	});
});
