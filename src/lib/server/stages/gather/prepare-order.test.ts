import { expect, it } from 'vitest';
import { secondsToFlicks } from '../../../core/time/flicks';
import { type PieceTask, takeNextPiece, takeNextSound } from './prepare-order';

const LINE_UP = 'line-up';

it('takes the sounds that are looked at first', () => {
	const left = ['a', 'b', 'c'].map((id) => ({ id }));
	const watched = { fileIds: ['b'] };
	expect([1, 2, 3, 4].map(() => takeNextSound(left, watched)?.id)).toEqual(['b', 'a', 'c', undefined]);
});

it('takes pieces from the playhead outwards, all angles side by side, other line-ups last', () => {
	const piece = (fileId: string, index: number, lineUpId = LINE_UP): PieceTask => ({
		fileId,
		file: {} as PieceTask['file'],
		index,
		lineUpId,
		flicks: secondsToFlicks(10 * index + 5)
	});
	const left = [0, 1, 2, 3].flatMap((index) => [piece('a', index), piece('b', index)]);
	left.push(piece('c', 2, 'another'));
	const watched = { fileIds: [], at: { lineUpId: LINE_UP, flicks: secondsToFlicks(21) } };
	const taken = Array.from({ length: 10 }, () => takeNextPiece(left, watched)).map(
		(one) => one && `${one.fileId}${one.index}`
	);
	expect(taken).toEqual(['a2', 'b2', 'a3', 'b3', 'a1', 'b1', 'a0', 'b0', 'c2', undefined]);
});

it('takes pieces from the beginning where nobody says what is looked at', () => {
	const left = [3, 1, 2].map((index): PieceTask => ({
		fileId: 'a',
		file: {} as PieceTask['file'],
		index,
		lineUpId: LINE_UP,
		flicks: index
	}));
	expect([1, 2, 3].map(() => takeNextPiece(left, undefined)?.index)).toEqual([1, 2, 3]);
});
