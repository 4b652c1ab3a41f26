/** Ranks the sources of made-up shoots, seed after seed, and sends what came of each; a process of its own, for a core of its own. */
import { judge } from '../../src/lib/core/master/judge';
import type { FftProvider } from '../../src/lib/core/signal/fft';
import { fastFftProvider } from '../../src/lib/server/engine/fast-fft';
import { heardChannel } from '../support/heard-channels';
import { SCENE_RATE } from '../support/simulator/sounds';
import { makeSources, TALK_SECONDS } from '../support/simulator/sources';
import { intelligibility } from '../support/stoi';

/** How one made-up shoot was ranked. */
export interface RankedShoot {
	readonly seed: number;
	readonly isCloseFirst: boolean;
	readonly people: number;
	readonly ownFirst: number;
	readonly twins: number;
	/** Faulty copies that do not stand below what they are copies of. */
	readonly missedTwins: readonly string[];
	readonly isDeadLast: boolean;
	readonly tau: number;
	/** Without faulty copies. */
	readonly soundTau: number;
}

async function rank(seed: number, fft: FftProvider): Promise<RankedShoot> {
	const people = 2 + (seed % 3);
	const { sources } = await makeSources(seed, people, TALK_SECONDS, fft);
	const channels = sources.map(({ device, name, samples }, channel) =>
		heardChannel({ deviceId: device, channel, name }, samples, fft)
	);
	const given = Array.from({ length: people }, (_, person) => ({ name: `${person}`, channels: [person] }));
	const judged = judge(channels, given);
	const bySource = sources.map((_, channel) => judged.sources.find((one) => one.channel === channel)!);
	const all = [...sources.keys()];
	const living = all.filter((channel) => sources[channel]!.kind !== 'dead');
	const sound = living.filter((channel) => sources[channel]!.twinOf === undefined);
	const twins = living.filter((channel) => sources[channel]!.twinOf !== undefined);
	const understood = living.map((channel) => {
		const { clean, samples } = sources[channel]!;
		return [channel, intelligibility(clean, samples, SCENE_RATE)] as const;
	});
	const stoi = new Map(understood);
	const tauOf = (some: readonly number[]) =>
		kendall(
			some.map((channel) => bySource[channel]!.points),
			some.map((channel) => stoi.get(channel)!)
		);
	const ownFirst = given.filter((_, person) => {
		const points = (channel: number) => bySource[channel]!.people[person]!.points;
		return sources[sound.reduce((a, b) => (points(b) > points(a) ? b : a))]!.person === person;
	}).length;
	return {
		seed,
		isCloseFirst: judged.sets[0]?.kind === 'close' && judged.sets[0].points >= judged.sources[0]!.points,
		people,
		ownFirst,
		twins: twins.length,
		missedTwins: twins
			.filter((channel) => bySource[channel]!.points >= bySource[sources[channel]!.twinOf!]!.points)
			.map((channel) => `${sources[channel]!.kind} (seed ${seed})`),
		isDeadLast: sources[judged.sources.at(-1)!.channel]!.kind === 'dead',
		tau: tauOf(living),
		soundTau: tauOf(sound)
	};
}

/** Kendall's tau-b of two rows. */
function kendall(x: readonly number[], y: readonly number[]): number {
	let [concordant, tiedX, tiedY, pairs] = [0, 0, 0, 0];
	for (let i = 0; i < x.length; i++)
		for (let j = 0; j < i; j++) {
			const [a, b] = [Math.sign(x[i]! - x[j]!), Math.sign(y[i]! - y[j]!)];
			concordant += a * b;
			tiedX += Number(a === 0);
			tiedY += Number(b === 0);
			pairs++;
		}
	return concordant / Math.sqrt((pairs - tiedX) * (pairs - tiedY));
}

process.on('message', (seeds: readonly number[]) => {
	void (async () => {
		const fft = await fastFftProvider();
		for (const seed of seeds) process.send!(await rank(seed, fft));
		process.send!('done');
	})();
});
