import { describe, expect, it } from 'vitest';
import { effectiveSpeech, spokenFlicks } from './effective-speech';

const found = [
	{ personId: 'a', inFlicks: 10, outFlicks: 20, confidence: 0.9 },
	{ personId: 'b', inFlicks: 15, outFlicks: 30, confidence: 0.8 },
	{ personId: 'a', inFlicks: 40, outFlicks: 50, confidence: 0.7 }
];

const times = (corrections: Parameters<typeof effectiveSpeech>[1]) =>
	effectiveSpeech(found, corrections).map(({ personId, inFlicks, outFlicks, isByHand }) =>
		[personId, inFlicks, outFlicks, isByHand].join(' ')
	);

describe('speech that was put right', () => {
	it('is what was found where nothing was', () => {
		expect(times([])).toEqual(['a 10 20 false', 'b 15 30 false', 'a 40 50 false']);
	});

	it('is cut where somebody does not speak, for him alone', () => {
		expect(times([{ personId: 'a', inFlicks: 12, outFlicks: 45, speaks: false }])).toEqual([
			'a 10 12 true',
			'b 15 30 false',
			'a 45 50 true'
		]);
	});

	it('grows to both sides and over gaps where he does', () => {
		expect(times([{ personId: 'a', inFlicks: 20, outFlicks: 40, speaks: true }])).toEqual([
			'a 10 50 true',
			'b 15 30 false'
		]);
	});

	it('follows the later word', () => {
		expect(
			times([
				{ personId: 'b', inFlicks: 0, outFlicks: 100, speaks: false },
				{ personId: 'b', inFlicks: 18, outFlicks: 25, speaks: true }
			])
		).toEqual(['a 10 20 false', 'b 18 25 true', 'a 40 50 false']);
	});

	it('is counted within a stretch', () => {
		expect(spokenFlicks(effectiveSpeech(found, []), 'a', { inFlicks: 15, outFlicks: 45 })).toBe(10);
	});
});
