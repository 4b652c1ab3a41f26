import { expect, it } from 'vitest';
import { secondsToFlicks } from '../../../core/time/flicks';
import { type PieceTask, takeFollowing, takeNextPiece, takeNextSound } from './prepare-order';

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

it('takes what follows a piece in its file along, up to a gap', () => {
	const piece = (fileId: string, index: number): PieceTask => ({
		fileId,
		file: {} as PieceTask['file'],
		index,
		lineUpId: LINE_UP,
		flicks: index
	});
	const left = [piece('b', 3), piece('a', 4), piece('a', 3), piece('a', 6)];
	expect(takeFollowing(left, piece('a', 2), 8).map(({ index }) => index)).toEqual([2, 3, 4]);
	expect(left.map(({ fileId, index }) => `${fileId}${index}`)).toEqual(['b3', 'a6']);
	expect(takeFollowing([piece('a', 1), piece('a', 2)], piece('a', 0), 2)).toHaveLength(2);
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
