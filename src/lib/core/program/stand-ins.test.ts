import { describe, expect, it } from 'vitest';
import { flicksToSeconds, secondsToFlicks } from '../time/flicks';
import { turnsOver } from './stand-ins';

const range = (from: number, to: number) => ({ inFlicks: secondsToFlicks(from), outFlicks: secondsToFlicks(to) });
const turns = (
	covered: readonly (readonly (readonly [number, number])[])[],
	pauses: readonly (readonly [number, number])[] = []
) =>
	turnsOver(
		range(0, 100),
		covered.map((own) => own.map(([from, to]) => range(from, to))),
		pauses.map(([from, to]) => range(from, to))
	).map((one) => [
		one.turn,
		...[one.inFlicks, one.fadedInFlicks, one.fadesOutFlicks, one.outFlicks].map(
			(flicks) => Math.round(flicksToSeconds(flicks) * 1000) / 1000
		)
	]);

describe('what stands in', () => {
	it('comes before the master ends and stays until it has begun again, by crossfades of 40 ms', () => {
		expect(
			turns([
				[
					[0, 40],
					[60, 100]
				],
				[[0, 100]]
			])
		).toEqual([
			[0, 0, 0, 39.96, 40],
			[1, 39.96, 40, 60, 60.04],
			[0, 60, 60.04, 100, 100]
		]);
	});

	it('changes in the pause that is nearest, within three seconds', () => {
		const pauses = [
			[35, 36],
			[38, 38.5],
			[39.99, 40.5],
			[62, 63],
			[90, 91]
		] as const;
		expect(
			turns(
				[
					[
						[0, 40],
						[60, 100]
					],
					[[0, 100]]
				],
				pauses
			)
		).toEqual([
			[0, 0, 0, 38.46, 38.5],
			[1, 38.46, 38.5, 62, 62.04],
			[0, 62, 62.04, 100, 100]
		]);
	});

	it('is the next in order where the first has nothing either; silence stays where nobody has', () => {
		expect(turns([[[10, 40]], [[0, 50]], [[45, 70]]])).toEqual([
			[1, 0, 0, 10, 10.04],
			[0, 10, 10.04, 39.96, 40],
			[1, 39.96, 40, 49.96, 50],
			[2, 49.96, 50, 70, 70]
		]);
	});

	it('fades where both have sound only for a moment, and cuts where they never have', () => {
		expect(turns([[[0, 40]], [[39.99, 100]]])[0]).toEqual([0, 0, 0, 39.99, 40]);
		expect(turns([[[0, 40]], [[40, 100]]])).toEqual([
			[0, 0, 0, 40, 40],
			[1, 40, 40, 100, 100]
		]);
	});

	it('lets short holes be: they are seams of files', () => {
		expect(
			turns([
				[
					[0, 40],
					[40.05, 100]
				],
				[[0, 100]]
			])
		).toEqual([[0, 0, 0, 100, 100]]);
	});
});
