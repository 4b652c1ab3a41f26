import { expect, it } from 'vitest';
import { ANALYSIS_SAMPLE_RATE } from '../../core/features/band-features';
import type { Span } from '../../core/match/windows/listening-windows';
import { type Jumping, openLazySound } from './lazy-sound';

/** A sound whose samples tell their second, and what was read of it. */
function opened(seconds: number, jumping: Jumping) {
	const asked: (readonly [number, number])[] = [];
	const read = (stretches: readonly Span[]) => {
		asked.push(...stretches.map(({ fromSeconds, toSeconds }) => [fromSeconds, toSeconds] as const));
		return Promise.resolve(
			stretches.map(({ fromSeconds, toSeconds }) =>
				Int16Array.from({ length: (toSeconds - fromSeconds) * ANALYSIS_SAMPLE_RATE }, (_, i) =>
					Math.floor(fromSeconds + i / ANALYSIS_SAMPLE_RATE)
				)
			)
		);
	};
	return { sound: openLazySound(seconds, read, jumping), asked };
}

const at = (samples: Int16Array, seconds: number) => samples[seconds * ANALYSIS_SAMPLE_RATE];

it('reads only what is needed where a jump is free, and nothing twice', async () => {
	const { sound, asked } = opened(100, 'free');
	await sound.need({ fromSeconds: 10, toSeconds: 13 }, { fromSeconds: 21, toSeconds: 22 });
	await sound.need({ fromSeconds: 9, toSeconds: 30 });
	expect(asked).toEqual([
		[8, 16],
		[20, 24],
		[16, 20],
		[24, 32]
	]);
	expect([at(sound.samples, 12), at(sound.samples, 21), at(sound.samples, 31), at(sound.samples, 40)]).toEqual([
		12, 21, 31, 0
	]);
});

it('reads short gaps along where a jump costs, and short sounds as a whole', async () => {
	const long = opened(2000, 'costly');
	await long.sound.need({ fromSeconds: 100, toSeconds: 104 }, { fromSeconds: 120, toSeconds: 124 });
	await long.sound.need({ fromSeconds: 1000, toSeconds: 1004 });
	expect(long.asked).toEqual([
		[100, 124],
		[1000, 1004]
	]);
	const short = opened(1000, 'costly');
	await short.sound.need({ fromSeconds: 500, toSeconds: 501 });
	expect(short.asked).toEqual([[0, 1000]]);
});

it('reads all at the first need where no jump can be made', async () => {
	const { sound, asked } = opened(2000.5, 'never');
	await Promise.all([sound.need({ fromSeconds: 3, toSeconds: 4 }), sound.need({ fromSeconds: 1500, toSeconds: 1501 })]);
	expect(asked).toEqual([[0, 2001]]);
	expect(sound.samples.length).toBe(2000.5 * ANALYSIS_SAMPLE_RATE);
});
