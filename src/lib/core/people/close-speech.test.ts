import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../demo/random';
import { fromPower } from '../measure/readings';
import { closeSpeech } from './close-speech';
import { confidenceOf } from './confidence';
import { type ChannelToSort, personOf, proposePeople } from './propose';

const FRAMES = 6000;

/** Levels of microphones that hear each person and, so much softer, the others; who speaks changes every 1.5 s. */
function levelsOf(people: number, bleedDb: number, gainsDb: readonly number[] = []) {
	const random = seededRandom(11);
	const speaks = Array.from({ length: people }, () => new Uint8Array(FRAMES));
	for (let from = 0; from < FRAMES; from += 150) {
		const person = Math.floor(random() * (people + 1));
		if (person < people) speaks[person]!.fill(1, from, from + 115);
	}
	const voices = speaks.map((own) => Float64Array.from(own, (on) => (on ? 1e-3 * 10 ** (1.6 * random() - 0.8) : 0)));
	const levels = voices.map((_, channel) =>
		Uint8Array.from({ length: FRAMES }, (_, frame) => {
			let power = 1e-7 * (0.7 + 0.6 * random());
			for (const [person, voice] of voices.entries())
				power += voice[frame]! * (person === channel ? 1 : 10 ** ((bleedDb + 4 * (random() - 0.5)) / 10));
			return fromPower(power * 10 ** ((gainsDb[channel] ?? 0) / 10));
		})
	);
	return { levels, speaks };
}

function errorOf(found: readonly { from: number; to: number }[], speaks: Uint8Array): number {
	const says = new Uint8Array(FRAMES);
	for (const { from, to } of found) says.fill(1, from, to);
	return says.reduce((sum, one, frame) => sum + Math.abs(one - speaks[frame]!), 0) / FRAMES;
}

describe('who speaks, with close microphones', () => {
	it('is told by how loud each is in all of them', () => {
		const { levels, speaks } = levelsOf(3, -15);
		const { stretches } = closeSpeech(levels);
		for (const person of [0, 1, 2]) expect(errorOf(stretches[person]!, speaks[person]!)).toBeLessThan(0.02);
	});

	it('does not ask for gains that are alike', () => {
		const { levels, speaks } = levelsOf(3, -15, [10, 0, -10]);
		const { stretches, model } = closeSpeech(levels);
		for (const person of [0, 1, 2]) expect(errorOf(stretches[person]!, speaks[person]!)).toBeLessThan(0.02);
		// Person 1 on the microphone that is turned up: 10 dB less bleed.
		expect(Math.abs(10 * Math.log10(model.bleed[1 * 3 + 0]!) + 5)).toBeLessThan(2);
	});

	it('says nothing of a channel that does not run', () => {
		const { levels } = levelsOf(2, -15);
		levels[1]!.fill(0);
		expect(closeSpeech(levels).stretches[1]).toEqual([]);
	});

	it('is sure of what is clear', () => {
		expect(confidenceOf(3)).toBeGreaterThan(0.95);
		expect(confidenceOf(0)).toBeLessThan(0.5);
	});
});

describe('people are proposed', () => {
	const channel = (name: string, levels: Uint8Array, more: Partial<ChannelToSort> = {}): ChannelToSort => ({
		name,
		levels,
		isLeftOut: false,
		...more
	});

	it('by the names of channels, those of rooms and mixes left out', () => {
		const { levels } = levelsOf(2, -15);
		const names = ['Host', 'Guest', 'Room', 'Mix L', 'Tr5', 'host'];
		expect(proposePeople(names.map((name) => channel(name, levels[0]!)))).toEqual([
			{ name: 'Host', channel: 0 },
			{ name: 'Guest', channel: 1 }
		]);
		expect(personOf('Channel 2')).toBeUndefined();
		expect(personOf('Marit')).toBe('Marit');
	});

	it('by their sound where none is named: who is loud in each, and only there', () => {
		const { levels } = levelsOf(3, -15);
		const far = Uint8Array.from(levels[0]!, (_, frame) => Math.max(...levels.map((own) => own[frame]!)) - 20);
		const stereo = [far, far.map((byte, frame) => byte + (frame % 2))];
		const all = [...stereo, ...levels].map((own) => channel('', own));
		expect(proposePeople(all).map((one) => one.channel)).toEqual([2, 3, 4]);
	});

	it('as nobody where all channels hear the same', () => {
		const { levels } = levelsOf(3, -15);
		const far = Uint8Array.from(levels[0]!, (_, frame) => Math.max(...levels.map((own) => own[frame]!)) - 20);
		expect(
			proposePeople([
				channel('', far),
				channel(
					'',
					far.map((byte, frame) => byte + (frame % 2))
				)
			])
		).toEqual([]);
	});
});
