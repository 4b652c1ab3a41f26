import { expect, it } from 'vitest';
import { invertedDevices, type PolarityVote } from './polarity';

const vote = (a: string, b: string, isInverted: boolean): PolarityVote => ({ a, b, isInverted });

it('follows polarity from the reference over several devices', () => {
	const votes = [vote('rec', 'cam-a', true), vote('cam-a', 'cam-b', true), vote('cam-c', 'cam-a', false)];
	expect(invertedDevices(votes, 'rec')).toEqual(['cam-a', 'cam-c']);
	expect(invertedDevices([], 'rec')).toEqual([]);
	expect(invertedDevices([vote('x', 'y', true)], 'rec')).toEqual([]);
});

it('believes the many, in either direction, and nobody where they disagree', () => {
	const many = [vote('rec', 'cam', true), vote('cam', 'rec', true), vote('rec', 'cam', true), vote('rec', 'cam', true)];
	expect(invertedDevices([...many, vote('rec', 'cam', false)], 'rec')).toEqual(['cam']);
	expect(invertedDevices([vote('rec', 'cam', true), vote('rec', 'cam', false)], 'rec')).toEqual([]);
});

it('takes the way with the most votes where two ways contradict each other', () => {
	const twice = (one: PolarityVote) => [one, one];
	const surest = [...twice(vote('rec', 'cam', false)), ...twice(vote('rec', 'lav', false))];
	expect(invertedDevices([vote('lav', 'cam', true), ...surest], 'rec')).toEqual([]);
});
