import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../../demo/random';
import { ORDER_WIDTH } from '../../limits/solve';
import { workInOrder } from './in-order';

const ITEMS = Array.from({ length: 25 }, (_, item) => item);

/** Each item notes what it knew when it began; they take as long as chance will have it. */
async function whatEachKnew(atOnce: number, seed: number) {
	const random = seededRandom(seed);
	let [running, most] = [0, 0];
	const knew = await workInOrder(ITEMS, [] as readonly (readonly [number, readonly number[]])[], {
		atOnce,
		work: async (item, known, done) => {
			most = Math.max(most, ++running);
			await new Promise((resolve) => setTimeout(resolve, 8 * random()));
			running--;
			expect(known.length).toBe(done);
			return [item, known.map(([one]) => one)] as const;
		},
		learn: (known, result) => [...known, result]
	});
	return { knew, most };
}

describe('work in order', () => {
	it('comes out the same, whoever is done first and however many work', async () => {
		const { knew: alone } = await whatEachKnew(1, 1);
		expect(alone.map(([item]) => item)).toEqual(ITEMS);
		expect(alone[10]![1]).toEqual(ITEMS.slice(0, 11 - ORDER_WIDTH));
		for (const seed of [2, 3, 4]) {
			const { knew, most } = await whatEachKnew(16, seed);
			expect(knew).toEqual(alone);
			expect(most).toBe(ORDER_WIDTH);
		}
	});

	it('ends with the first failure, when nothing is under way any more', async () => {
		let running = 0;
		const failing = workInOrder(ITEMS, 0, {
			atOnce: 4,
			work: async (item) => {
				running++;
				await new Promise((resolve) => setTimeout(resolve, item === 2 ? 1 : 10));
				running--;
				if (item === 2) throw new Error('No.');
				return item;
			},
			learn: (known, result) => known + result
		});
		await expect(failing).rejects.toThrow('No.');
		expect(running).toBe(0);
	});
});
