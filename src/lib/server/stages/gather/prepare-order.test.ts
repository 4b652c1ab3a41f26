import { expect, it } from 'vitest';
import { type PrepareTask, takeNext } from './prepare-order';

const task = (id: string, kind: 'sound' | 'picture'): PrepareTask<{ id: string }> => ({ file: { id }, kind });

function order(watched: readonly string[], underWay = false): readonly string[] {
	const left = [task('a', 'sound'), task('b', 'sound'), task('a', 'picture'), task('b', 'picture')];
	const taken: string[] = [];
	for (;;) {
		const next = takeNext(left, new Set(watched), underWay);
		if (!next) return taken;
		taken.push(`${next.file.id} ${next.kind}`);
	}
}

it('takes sound first, and before all else what is looked at', () => {
	expect(order([])).toEqual(['a sound', 'b sound', 'a picture', 'b picture']);
	expect(order(['b'])).toEqual(['b sound', 'b picture', 'a sound', 'a picture']);
});

it('begins no second picture beside one', () => {
	expect(order(['b'], true)).toEqual(['b sound', 'a sound']);
});
