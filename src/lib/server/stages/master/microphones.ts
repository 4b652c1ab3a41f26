import { createHash } from 'node:crypto';
import { type ChannelKey, isSameChannel, type SourcesReport } from '../../../core/master/report';
import { agreedLag, type MicrophoneLag } from '../../../core/measure/microphone-lag';
import { MICROPHONE_LAG } from '../../../core/limits/measure';
import { joined } from '../../../core/program/heard-speech';
import { fileSamples, type SoundRun, soundRuns } from '../../../core/program/sound-runs';
import type { Person } from '../../../core/shoot/person';
import { placedClips, type Range } from '../../../core/shoot/lookup';
import type { Shoot } from '../../../core/shoot/shoot';
import { CORRECTION_REACH } from '../../../core/signal/clock-correction';
import { ownTimeAt } from '../../../core/time/course';
import { FLICKS_PER_SECOND, secondsToFlicks } from '../../../core/time/flicks';
import type { MicrophonePlace, RecordedStretch } from '../../engine/compare-microphones';
import { LISTENING_SAMPLE_RATE } from '../../media/listening/listening-format';
import { MediaError } from '../../media/media-error';
import type { PiecedSound } from '../../media/listening/listening-pieces';
import type { Runtime } from '../../runtime';

const FLICKS_PER_SAMPLE = FLICKS_PER_SECOND / LISTENING_SAMPLE_RATE;

/** What is needed to listen to microphones. */
export interface MicrophoneTools {
	readonly runtime: Pick<Runtime, 'pool' | 'listening'>;
	readonly files: ReadonlyMap<string, PiecedSound>;
	readonly signal: AbortSignal;
	/** Between two stretches. @throws what ends the work: it is not wanted any more */
	readonly goesOn: () => Promise<void>;
}

type ComparedPerson = Pick<Person, 'id' | 'channels'>;

/** Whose microphones are compared. */
export interface ComparedLineUp {
	readonly shoot: Shoot;
	readonly lineUpId: string;
	readonly people: readonly ComparedPerson[];
	/** What was found last: where clips and people are the same, so is how they are heard. */
	readonly before?: SourcesReport;
}

interface Listened extends MicrophoneTools {
	readonly runs: ReadonlyMap<string, readonly SoundRun[]>;
}

/**
 * How each source hears each person against the channel that is closest to him: how much later, and with which polarity. A few
 * stretches in which he speaks alone are listened to once more, at full rate.
 * @returns the report with what was found
 */
export async function compareMicrophones(
	tools: MicrophoneTools,
	{ shoot, lineUpId, people, before }: ComparedLineUp,
	report: SourcesReport
): Promise<SourcesReport> {
	const runs = soundRuns(placedClips(shoot, lineUpId));
	const sounds = JSON.stringify([...runs.values()]);
	const keyOf = (person: ComparedPerson) =>
		createHash('sha256')
			.update(sounds)
			.update(JSON.stringify(person.channels[0] ?? null))
			.digest('hex');
	const keys: Record<string, string> = {};
	const found = new Map<string, MicrophoneLag>();
	for (const person of people) {
		const key = (keys[person.id] = keyOf(person));
		const isKnown = before?.microphones?.[person.id] === key;
		const lags = isKnown ? lagsBefore(before, person.id) : await findLags({ ...tools, runs }, person, report);
		for (const [source, lag] of lags) found.set(nameOf(source, person.id), lag);
	}
	return {
		...report,
		microphones: keys,
		sources: report.sources.map((source) => ({
			...source,
			people: source.people.map((one, person) => ({ ...one, ...found.get(nameOf(source, report.personIds[person]!)) }))
		}))
	};
}

type Lags = readonly (readonly [ChannelKey, MicrophoneLag])[];

function lagsBefore({ sources, personIds }: SourcesReport, personId: string): Lags {
	return sources.flatMap((source) => {
		const { laterSeconds, isInverted } = source.people[personIds.indexOf(personId)] ?? {};
		if (laterSeconds === undefined) return [];
		return [[source, { laterSeconds, ...(isInverted === undefined ? {} : { isInverted }) }] as const];
	});
}

async function findLags(
	listened: Listened,
	{ id, channels: [closest] }: ComparedPerson,
	report: SourcesReport
): Promise<Lags> {
	if (!closest) return [];
	const others = report.sources.filter((one) => !one.isDead && !isSameChannel(one, closest));
	const lags: (MicrophoneLag | undefined)[][] = others.map(() => []);
	for (const stretch of soloStretches(report.speech, id)) {
		await listened.goesOn();
		const heard = await lagsIn(stretch, closest, others, listened);
		for (const [index, lag] of heard.entries()) lags[index]!.push(lag);
	}
	return others.flatMap((one, index) => {
		const lag = agreedLag(lags[index]!);
		return lag ? [[one, lag] as const] : [];
	});
}

function nameOf({ deviceId, channel }: ChannelKey, personId: string): string {
	return `${deviceId} ${channel} ${personId}`;
}

/** Stretches of enough length in which only he speaks, spread over all of them. */
function soloStretches(speech: SourcesReport['speech'], personId: string): readonly Range[] {
	const least = secondsToFlicks(MICROPHONE_LAG.listenedSeconds);
	const others = joined(speech.filter((one) => one.personId !== personId));
	const alone = joined(speech.filter((one) => one.personId === personId)).flatMap((one) => {
		let at = one.inFlicks;
		const free: Range[] = [];
		for (const other of others.filter((two) => two.outFlicks > one.inFlicks && two.inFlicks < one.outFlicks)) {
			free.push({ inFlicks: at, outFlicks: other.inFlicks });
			at = other.outFlicks;
		}
		return [...free, { inFlicks: at, outFlicks: one.outFlicks }];
	});
	const long = alone.filter((one) => one.outFlicks - one.inFlicks >= least);
	const step = Math.max(1, long.length / MICROPHONE_LAG.times);
	return Array.from({ length: Math.min(long.length, MICROPHONE_LAG.times) }, (_, index) => {
		const { inFlicks } = long[Math.floor(index * step)]!;
		return { inFlicks, outFlicks: inFlicks + least };
	});
}

async function lagsIn(
	stretch: Range,
	closest: ChannelKey,
	others: readonly ChannelKey[],
	listened: Listened
): Promise<readonly (MicrophoneLag | undefined)[]> {
	const ids = [...new Set([closest, ...others].map((one) => one.deviceId))];
	const recorded = await Promise.all(ids.map((id) => recordedStretch(id, stretch, listened)));
	const there = ids.filter((_, index) => recorded[index]);
	const devices = recorded.filter((one) => one !== undefined);
	const placeOf = ({ deviceId, channel }: ChannelKey): MicrophonePlace | undefined => {
		const device = there.indexOf(deviceId);
		return device >= 0 && channel < devices[device]!.channels ? { device, channel } : undefined;
	};
	const close = placeOf(closest);
	const places = others.map(placeOf);
	const known = places.filter((one) => one !== undefined);
	if (!close || known.length === 0) return others.map(() => undefined);
	const samples = samplesOf(stretch);
	const task = { devices, close, others: known, samples, sampleRate: LISTENING_SAMPLE_RATE };
	const lags = await listened.runtime.pool.run({ kind: 'microphones', ...task }, listened.signal);
	return places.map((place) => place && lags[known.indexOf(place)]);
}

function samplesOf({ inFlicks, outFlicks }: Range): number {
	return Math.round((outFlicks - inFlicks) / FLICKS_PER_SAMPLE);
}

/** What a device has of a stretch, all its channels; nothing where it does not run from end to end in one file. */
async function recordedStretch(
	deviceId: string,
	stretch: Range,
	{ runs, files, runtime }: Listened
): Promise<RecordedStretch | undefined> {
	const { inFlicks, outFlicks } = stretch;
	const run = (runs.get(deviceId) ?? []).find(
		(one) => one.fadedInFlicks <= inFlicks && one.fadesOutFlicks >= outFlicks
	);
	if (!run) return undefined;
	const position = ownTimeAt(run.course, inFlicks) / FLICKS_PER_SAMPLE;
	const end = ownTimeAt(run.course, outFlicks) / FLICKS_PER_SAMPLE;
	const starts = fileSamples(run, LISTENING_SAMPLE_RATE);
	const index = starts.findLastIndex((start) => start + CORRECTION_REACH <= position);
	const file = files.get(run.files[index]?.fileId ?? '');
	if (!file || end + CORRECTION_REACH > (starts[index + 1] ?? Infinity)) return undefined;
	const first = Math.floor(position) - CORRECTION_REACH;
	const last = Math.ceil(end) + CORRECTION_REACH;
	const channels = Array.from({ length: run.channels }, (_, channel) => channel);
	try {
		const pcm = await runtime.listening.read(file, first - starts[index]!, last - starts[index]!, channels);
		return { pcm, channels: run.channels, position: position - first, step: (end - position) / samplesOf(stretch) };
	} catch (error) {
		// A damaged file: its job of preparing tells why.
		if (error instanceof MediaError && error.kind !== 'tool-missing') return undefined;
		throw error;
	}
}
