import { STAND_IN } from '../limits/master';
import { asMaster, setAsMaster } from '../master/as-master';
import { matchingGainDb } from '../master/loudness-of';
import { type ChannelKey, isSameChannel, type ReportedSource } from '../master/report';
import type { MasterChannel, Mix } from '../shoot/decisions';
import { placedClips, type Range, rangeOf } from '../shoot/lookup';
import type { Shoot } from '../shoot/shoot';
import { secondsToFlicks } from '../time/flicks';
import { curveThrough, type GainCurve, type LevelStep } from './gain-curve';
import { type HeardSpeech, joined } from './heard-speech';
import type { Faded, SoundRun } from './sound-runs';
import { type Turn, turnsOver } from './stand-ins';
import { openingOf } from './who-opens';

/** A channel of a run, as it goes into the mix. */
export interface MixedChannel extends Omit<MasterChannel, 'deviceId' | 'shiftFlicks'> {
	/** Its level over time, on top of its own. */
	readonly curve?: GainCurve;
}

/** A run of sound, with the channels of it that the audience hears. */
export interface SoundInterval {
	/** Where it is heard: brought later or earlier already, if its channels are. */
	readonly run: SoundRun;
	readonly inFlicks: number;
	readonly outFlicks: number;
	/** The turn that it belongs to, with its fades. */
	readonly part: Faded;
	/** 0 for the master, else what stands in for it. */
	readonly turn: number;
	/** By how much it is later than it was recorded. */
	readonly shiftFlicks: number;
	readonly channels: readonly MixedChannel[];
}

/** What the audience hears over a stretch. */
export interface MixedSound {
	readonly intervals: readonly SoundInterval[];
	/** Who is heard when, over all of the line-up: the master, or what stands in for it. */
	readonly turns: readonly Turn[];
	/** The master, and what stands in for it, in order. */
	readonly order: readonly (readonly MasterChannel[])[];
}

type MixedShoot = Pick<Shoot, 'clips' | 'devices' | 'lineUps'>;

/**
 * The mix of a line-up over a stretch of it. What is heard at a moment does not depend on the stretch.
 * @param runs of each device on the line-up
 * @param heard who speaks when, as far as it is known
 */
export function mixedSound(
	shoot: MixedShoot,
	lineUpId: string,
	runs: ReadonlyMap<string, readonly SoundRun[]>,
	range: Range,
	heard: HeardSpeech | undefined
): MixedSound {
	const lineUp = shoot.lineUps.find((one) => one.id === lineUpId);
	if (!lineUp || lineUp.master.length === 0) return { intervals: [], turns: [], order: [] };
	const { master, mix } = lineUp;
	const standIns = mix.coversGaps ? standInsOf(shoot, lineUpId, runs, heard) : [];
	const order = [master, ...standIns];
	const whole = rangeOf(placedClips(shoot, lineUpId));
	const covered = order.map((channels) => coveredBy(channels, runs));
	const turns = turnsOver(whole, covered, pausesIn(whole, heard));
	const intervals: SoundInterval[] = [];
	const shifted = new Map<string, readonly SoundRun[]>();
	for (const [place, channels] of order.entries()) {
		const own = turns.filter((one) => one.turn === place);
		if (own.length === 0) continue;
		const curveOf = place === 0 ? openings(master, mix, heard) : matching(channels, master, heard);
		for (const [key, together] of groupedByRun(channels)) {
			const moved = shifted.get(key) ?? runsLater(runs.get(together[0]!.deviceId) ?? [], together[0]!.shiftFlicks);
			shifted.set(key, moved);
			const mixed = together.map(({ deviceId: _deviceId, shiftFlicks: _shift, ...one }, index): MixedChannel => {
				const curve = curveOf(together[index]!);
				return curve ? { ...one, curve } : one;
			});
			addIntervals(intervals, moved, own, range, { shiftFlicks: together[0]!.shiftFlicks, channels: mixed });
		}
	}
	return { intervals, turns, order };
}

/** Channels of one device that are shifted alike: they are read together. */
function groupedByRun(channels: readonly MasterChannel[]): ReadonlyMap<string, readonly MasterChannel[]> {
	const groups = new Map<string, MasterChannel[]>();
	for (const one of channels) {
		const key = `${one.deviceId} ${one.shiftFlicks}`;
		groups.set(key, [...(groups.get(key) ?? []), one]);
	}
	return groups;
}

/** Runs and turns come in order: a merge of both. */
function addIntervals(
	intervals: SoundInterval[],
	runs: readonly SoundRun[],
	turns: readonly Turn[],
	range: Range,
	{ shiftFlicks, channels }: Pick<SoundInterval, 'shiftFlicks' | 'channels'>
): void {
	let first = 0;
	for (const { turn, ...part } of turns) {
		while (first < runs.length && runs[first]!.outFlicks <= part.inFlicks) first++;
		for (let index = first; index < runs.length && runs[index]!.inFlicks < part.outFlicks; index++) {
			const run = runs[index]!;
			const usable = channels.filter((one) => one.channel < run.channels);
			const inFlicks = Math.max(range.inFlicks, run.inFlicks, part.inFlicks);
			const outFlicks = Math.min(range.outFlicks, run.outFlicks, part.outFlicks);
			if (usable.length > 0 && outFlicks > inFlicks)
				intervals.push({ run, inFlicks, outFlicks, part, turn, shiftFlicks, channels: usable });
		}
	}
}

function runsLater(runs: readonly SoundRun[], shiftFlicks: number): readonly SoundRun[] {
	if (shiftFlicks === 0) return runs;
	return runs.map((run) => ({
		...run,
		inFlicks: run.inFlicks + shiftFlicks,
		outFlicks: run.outFlicks + shiftFlicks,
		fadedInFlicks: run.fadedInFlicks + shiftFlicks,
		fadesOutFlicks: run.fadesOutFlicks + shiftFlicks,
		course: { ...run.course, startFlicks: run.course.startFlicks + shiftFlicks },
		files: run.files.map((file) => ({ ...file, firstSampleFlicks: file.firstSampleFlicks + shiftFlicks }))
	}));
}

/** Where any of some channels has sound. */
function coveredBy(
	channels: readonly MasterChannel[],
	runs: ReadonlyMap<string, readonly SoundRun[]>
): readonly Range[] {
	return [...new Set(channels.map((one) => one.deviceId))].flatMap((deviceId) =>
		(runs.get(deviceId) ?? []).filter((run) =>
			channels.some((one) => one.deviceId === deviceId && one.channel < run.channels)
		)
	);
}

function pausesIn(range: Range, heard: HeardSpeech | undefined): readonly Range[] {
	const speech = joined(heard?.speech ?? []);
	if (speech.length === 0) return [];
	const edges = [range.inFlicks, ...speech.flatMap((one) => [one.inFlicks, one.outFlicks]), range.outFlicks];
	return Array.from({ length: edges.length / 2 }, (_, index) => ({
		inFlicks: edges[2 * index]!,
		outFlicks: edges[2 * index + 1]!
	})).filter((one) => one.outFlicks > one.inFlicks);
}

/**
 * What stands in where the master has a gap: as an editor has ordered it; else all other devices, the best first, as far as it
 * is known, recorders before cameras otherwise.
 */
export function standInsOf(
	shoot: MixedShoot,
	lineUpId: string,
	runs: ReadonlyMap<string, readonly SoundRun[]>,
	heard: HeardSpeech | undefined
): readonly (readonly MasterChannel[])[] {
	const lineUp = shoot.lineUps.find((one) => one.id === lineUpId);
	if (!lineUp) return [];
	if (lineUp.standIns.length > 0) return lineUp.standIns;
	const others = shoot.devices
		.filter((device) => !lineUp.master.some((one) => one.deviceId === device.id))
		.map((device) => ({ device, ...asStandIn(device.id, runs, heard) }))
		.filter((one) => one.channels.length > 0);
	const secondsOf = (deviceId: string) =>
		(runs.get(deviceId) ?? []).reduce((sum, run) => sum + run.outFlicks - run.inFlicks, 0);
	return others
		.sort(
			(a, b) =>
				b.points - a.points ||
				Number(b.device.kind === 'recorder') - Number(a.device.kind === 'recorder') ||
				secondsOf(b.device.id) - secondsOf(a.device.id)
		)
		.map((one) => one.channels);
}

/** A device as it can stand in: its best set, where sets are known; else its channels that are no other's and not dead. */
function asStandIn(
	deviceId: string,
	runs: ReadonlyMap<string, readonly SoundRun[]>,
	heard: HeardSpeech | undefined
): { readonly channels: readonly MasterChannel[]; readonly points: number } {
	const [set] = (heard?.sets ?? [])
		.filter((one) => one.channels.every((channel) => channel.deviceId === deviceId))
		.sort((a, b) => b.points - a.points);
	if (set) return { channels: setAsMaster(set), points: set.points };
	const count = Math.max(0, ...(runs.get(deviceId) ?? []).map((run) => run.channels));
	const channels = Array.from({ length: count }, (_, channel) => ({ deviceId, channel })).filter((one) => {
		const source = sourceOf(heard, one);
		return !source?.isDead && source?.sameAs === undefined;
	});
	const points = Math.max(-1, ...channels.map((one) => sourceOf(heard, one)?.points ?? -1));
	return { channels: asMaster(channels), points };
}

function sourceOf(heard: HeardSpeech | undefined, channel: ChannelKey): ReportedSource | undefined {
	return heard?.sources.find((one) => isSameChannel(one, channel));
}

type CurveOf = (channel: MasterChannel) => GainCurve | undefined;

function openings(master: readonly MasterChannel[], mix: Mix, heard: HeardSpeech | undefined): CurveOf {
	if (!mix.opensBySpeech || !heard) return () => undefined;
	return (channel) => openingOf(channel, master, heard, mix.closedDb);
}

const FOLLOWS = {
	aheadSeconds: STAND_IN.followSeconds,
	upSeconds: STAND_IN.followSeconds,
	downSeconds: STAND_IN.followSeconds
};

/** What stands in has each person as loud as the master has him; who is not known, as loud as all of it. */
function matching(
	channels: readonly MasterChannel[],
	master: readonly MasterChannel[],
	heard: HeardSpeech | undefined
): CurveOf {
	if (!heard) return () => undefined;
	const limited = (levelDb: number) => Math.max(-STAND_IN.mostMatchingDb, Math.min(STAND_IN.mostMatchingDb, levelDb));
	const usual = limited(matchingGainDb(channels, master, heard.sources));
	const byPerson = new Map(
		heard.personIds.map((personId, person) => {
			const [own, wanted] = [levelOf(channels, person, heard), levelOf(master, person, heard)];
			return [personId, own === undefined || wanted === undefined ? usual : limited(wanted - own)];
		})
	);
	const steps: LevelStep[] = [{ atFlicks: (heard.speech[0]?.inFlicks ?? 0) - secondsToFlicks(1), levelDb: usual }];
	let until = -Infinity;
	for (const { personId, inFlicks, outFlicks } of heard.speech) {
		const levelDb = byPerson.get(personId) ?? usual;
		// Who breaks in is heard as he is until the other has ended.
		if (inFlicks >= until && levelDb !== steps.at(-1)!.levelDb) steps.push({ atFlicks: inFlicks, levelDb });
		until = Math.max(until, outFlicks);
	}
	const curve = curveThrough(steps, FOLLOWS);
	return () => curve;
}

/** How loud channels together have a person, in dB of full scale; nothing where none has him. */
function levelOf(channels: readonly MasterChannel[], person: number, heard: HeardSpeech): number | undefined {
	const powers = channels.flatMap((one) => {
		const levelDb = sourceOf(heard, one)?.people[person]?.levelDb;
		return levelDb === undefined ? [] : [10 ** ((levelDb + one.gainDb) / 10)];
	});
	return powers.length === 0 ? undefined : 10 * Math.log10(powers.reduce((sum, one) => sum + one, 0));
}
