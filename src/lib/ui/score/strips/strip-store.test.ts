import { describe, expect, it } from 'vitest';
import type { StripAnswer, StripAsked } from './strip-messages';
import { StripStore } from './strip-store';

/** A worker that answers when it is told to. */
function standIn() {
	const asked: StripAsked[] = [];
	let isClosed = 0;
	const worker = {
		onmessage: undefined as ((event: MessageEvent<StripAnswer>) => void) | undefined,
		postMessage: (one: StripAsked) => void asked.push(one),
		terminate: () => undefined
	};
	return {
		asked,
		worker: worker as unknown as Worker,
		closedPictures: () => isClosed,
		answer(one: StripAsked, isThere = true) {
			const picture = { seconds: one.seconds, close: () => void isClosed++ } as unknown as ImageBitmap;
			worker.onmessage!({ data: { name: one.name, ...(isThere ? { picture } : {}) } } as MessageEvent<StripAnswer>);
		}
	};
}

const FILE = { fileId: 'a', identity: 'a' };
const secondsOf = (shown: { readonly picture: ImageBitmap } | undefined) =>
	(shown?.picture as unknown as { readonly seconds: number } | undefined)?.seconds;

describe('pictures for strips', () => {
	it('are fetched one at a time, those first that stand for the longest stretches', () => {
		const { asked, worker, answer } = standIn();
		const drawing = new StripStore(
			() => worker,
			() => undefined
		).drawing();
		drawing.begin();
		for (const at of [2, 4, 6, 8, 10, 12]) drawing.picture(FILE, at, 2);
		drawing.end();
		expect(asked.map((one) => one.seconds)).toEqual([4]);
		for (let next = 0; next < 6; next++) answer(asked[next]!);
		expect(asked.map((one) => one.seconds)).toEqual([4, 2, 6, 1, 3, 5]);
	});

	it('an earlier one stands in until the due one has come', () => {
		const { asked, worker, answer } = standIn();
		const drawing = new StripStore(
			() => worker,
			() => undefined
		).drawing();
		const look = (at: number) => {
			drawing.begin();
			const shown = drawing.picture(FILE, at, 1);
			drawing.end();
			return shown;
		};
		expect(look(8)).toBeUndefined();
		answer(asked[0]!);
		expect(look(11)).toMatchObject({ isDue: false });
		expect(secondsOf(look(11))).toBe(4);
		answer(asked[1]!);
		expect(look(11)).toMatchObject({ isDue: true });
		expect(secondsOf(look(11))).toBe(5.5);
	});

	it('what the newest drawing does not want any more is not fetched; another drawing’s is', () => {
		const { asked, worker, answer } = standIn();
		const store = new StripStore(
			() => worker,
			() => undefined
		);
		const [lanes, program] = [store.drawing(), store.drawing()];
		const draw = (drawing: typeof lanes, places: readonly number[]) => {
			drawing.begin();
			for (const at of places) drawing.picture(FILE, at, 1);
			drawing.end();
		};
		draw(lanes, [16, 18, 20, 22]);
		draw(program, [3]);
		draw(lanes, [30]);
		for (let next = 0; next < asked.length; next++) answer(asked[next]!);
		expect(asked.map((one) => one.seconds).sort((a, b) => a - b)).toEqual([1.5, 8, 15]);
		expect(store.waiting).toBe(0);
	});

	it('one that cannot be had is not asked for over and over; all are let go of at the end', () => {
		const { asked, worker, answer, closedPictures } = standIn();
		const store = new StripStore(
			() => worker,
			() => undefined
		);
		const drawing = store.drawing();
		const look = (at: number) => {
			drawing.begin();
			drawing.picture(FILE, at, 1);
			drawing.end();
		};
		look(0);
		answer(asked[0]!, false);
		look(0);
		expect(asked).toHaveLength(1);
		look(1);
		answer(asked[1]!);
		store.close();
		expect(closedPictures()).toBe(1);
	});

	it('nothing more is fetched while it is held', () => {
		const { asked, worker, answer } = standIn();
		const store = new StripStore(
			() => worker,
			() => undefined
		);
		const drawing = store.drawing();
		store.setHeld(true);
		drawing.begin();
		for (const at of [1, 2, 3]) drawing.picture(FILE, at, 1);
		drawing.end();
		expect(asked).toEqual([]);
		store.setHeld(false);
		expect(asked).toHaveLength(1);
		store.setHeld(true);
		answer(asked[0]!);
		expect(asked).toHaveLength(1);
	});
});
