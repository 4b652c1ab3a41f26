import { describe, expect, it } from 'vitest';
import { loudnessOf, matchingGainDb } from './loudness-of';

const source = (deviceId: string, channel: number, loudnessLufs?: number) => ({
	deviceId,
	channel,
	measures: { clippedShare: 0, dropOuts: 0, ...(loudnessLufs === undefined ? {} : { loudnessLufs }) }
});
const sources = [source('a', 0, -20), source('a', 1, -20), source('b', 0, -30), source('c', 0)];
const heard = (deviceId: string, channel: number, pan = 0, gainDb = 0) => ({ deviceId, channel, pan, gainDb });

describe('loudness of channels together', () => {
	it('is three decibels more on both sides than on one, and for two than for one', () => {
		expect(loudnessOf([heard('a', 0, -1)], sources)).toBeCloseTo(-20, 6);
		expect(loudnessOf([heard('a', 0)], sources)).toBeCloseTo(-20 + 10 * Math.log10(2), 6);
		expect(loudnessOf([heard('a', 0, -1), heard('a', 1, 1)], sources)).toBeCloseTo(-20 + 10 * Math.log10(2), 6);
	});

	it('follows levels', () => {
		expect(loudnessOf([heard('b', 0, -1, 6)], sources)).toBeCloseTo(-24, 6);
	});

	it('is matched, as far as it is known', () => {
		expect(matchingGainDb([heard('b', 0)], [heard('a', 0)], sources)).toBeCloseTo(10, 6);
		expect(matchingGainDb([heard('c', 0)], [heard('a', 0)], sources)).toBe(0);
		expect(matchingGainDb([heard('b', 0, 0, -40)], [heard('a', 0)], sources)).toBe(24);
	});
});
