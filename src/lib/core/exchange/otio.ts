import { asPicture, asSound } from '../shoot/air-delay';
import { compile, type PictureInterval, type Plan } from '../program/compile';
import type { SoundInterval } from '../program/mixed-sound';
import { peopleOnChannel } from '../master/words';
import type { Clip, ClipPart, PlacedClip } from '../shoot/clip';
import type { StoredProgram } from '../shoot/decisions';
import type { Device } from '../shoot/device';
import { groupBy } from '../shoot/grouping';
import { placedClips } from '../shoot/lookup';
import { fileSource } from '../program/coverage';
import { toTimeline } from '../shoot/placement';
import type { Shoot } from '../shoot/shoot';
import { greatestBend, ownTimeAt } from '../time/course';
import { flicksToSeconds, samplesToFlicks, secondsToFlicks, videoFrameToFlicks } from '../time/flicks';
import { ratePerSecond } from '../time/rational';
import { availableRange, countedAt, type MediaCount, pictureCount, soundCount, sourceRange } from './otio-media';
import { clip as clipItem, type Counted, gap, type Json, marker, timeline, track } from './otio-schema';

/** Where a file of the shoot lies, as an address. */
export type FileAddress = (part: ClipPart) => string;

interface Writing {
	readonly shoot: Shoot;
	readonly addressOf: FileAddress;
	/** Each file with the clip it is of. */
	readonly files: ReadonlyMap<string, { readonly clip: PlacedClip; readonly part: ClipPart }>;
}

/** Sound lies on whole samples of this rate. */
const SOUND_RATE = 48_000;

/**
 * The line-up and its program as one timeline. What an outside reader shows is the program: its picture is the top track,
 * its sound the only audio that is enabled. Under it, not enabled, lies every device with all its clips at their places.
 */
export function toOtio(shoot: Shoot, program: StoredProgram, addressOf: FileAddress): string {
	const clips = placedClips(shoot, program.lineUpId);
	const files = new Map(clips.flatMap((clip) => clip.parts.map((part) => [part.fileId, { clip, part }] as const)));
	const writing = { shoot, addressOf, files };
	const plan = compile(shoot, program);
	const devices = shoot.devices.flatMap((device) =>
		deviceTracks(
			writing,
			device,
			clips.filter((clip) => clip.deviceId === device.id)
		)
	);
	const tracks = [...devices, ...programSound(writing, plan), programPicture(writing, plan)];
	const metadata = {
		open_choir: {
			program_range: [flicksToSeconds(program.inFlicks), flicksToSeconds(program.outFlicks)],
			rate: `${shoot.rate.num}/${shoot.rate.den}`,
			...(shoot.people.length > 0 ? { people: peopleNotes(shoot) } : {})
		}
	};
	const start = { value: 0, rate: ratePerSecond(shoot.rate) };
	return `${JSON.stringify(timeline(shoot.name, tracks, start, metadata), null, '\t')}\n`;
}

/** An item that begins and ends at whole frames or samples of the line-up. */
interface LaidItem {
	readonly from: number;
	readonly to: number;
	readonly item: (duration: Counted) => Json;
}

/** Items of one track, one after another, what lies between them as gaps. */
function laid(items: readonly LaidItem[], rate: number): readonly Json[] {
	const children: Json[] = [];
	let at = 0;
	for (const { from, to, item } of items) {
		if (from > at) children.push(gap({ value: from - at, rate }));
		children.push(item({ value: to - from, rate }));
		at = to;
	}
	return children;
}

/** Clips of one device that overlap lie on as many tracks as it takes, each at its true place. */
function lanes(items: readonly LaidItem[]): readonly (readonly LaidItem[])[] {
	const rows: LaidItem[][] = [];
	for (const item of [...items].sort((a, b) => a.from - b.from)) {
		const free = rows.find((row) => row.at(-1)!.to <= item.from);
		if (free) free.push(item);
		else rows.push([item]);
	}
	return rows;
}

/**
 * A long item is cut each time its clock has slipped by a frame, each piece from its own start on: a reader that knows no
 * warps stays within half a frame.
 */
function cutBySlip(
	from: number,
	to: number,
	rate: number,
	rateFactor: number,
	frameRate: number
): readonly { readonly from: number; readonly to: number }[] {
	const slipFrames = ((to - from) / rate) * Math.abs(rateFactor - 1) * frameRate;
	const pieces = Math.max(1, Math.ceil(slipFrames));
	const edge = (index: number) => from + Math.round(((to - from) * index) / pieces);
	return Array.from({ length: pieces }, (_, index) => ({ from: edge(index), to: edge(index + 1) }));
}

/** A slow clock makes a recording last longer than its samples say: the last piece ends with the last of them. */
function withinMedia(
	{ from, to }: { readonly from: number; readonly to: number },
	media: MediaCount,
	mediaSeconds: number
): { readonly from: number; readonly to: number } {
	const left = media.first + media.length - countedAt(media, mediaSeconds);
	return { from, to: Math.max(from + 1, Math.min(to, from + Math.floor((left / media.rate) * SOUND_RATE))) };
}

/** A warp only where without it the picture would slip by half a frame within the item. */
function timeScalar(rateFactor: number, { value, rate }: Counted, frameRate: number): number {
	const slipFrames = (value / rate) * Math.abs(rateFactor - 1) * frameRate;
	return slipFrames >= 0.5 ? 1 / rateFactor : 1;
}

function programPicture(writing: Writing, plan: Plan): Json {
	const rate = ratePerSecond(plan.rate);
	const items = plan.pictures.flatMap((interval) => {
		const { shown, fromFrame, toFrame } = interval;
		const rateFactor = shown.kind === 'called' || shown.kind === 'stand-in' ? shown.source.rateFactor : 1;
		return cutBySlip(fromFrame, toFrame, rate, rateFactor, rate).map(({ from, to }) => ({
			from,
			to,
			item: (duration: Counted) => pictureItem(writing, plan, { ...interval, fromFrame: from, toFrame: to }, duration)
		}));
	});
	return track('Program', 'Video', laid(items, rate), { enabled: true });
}

/** What is held or black is a gap: the format has no still picture of a moment that lies within the media. */
function pictureItem(
	{ shoot, files, addressOf }: Writing,
	{ rate }: Plan,
	{ fromFrame, shown, calledDeviceId }: PictureInterval,
	duration: Counted
): Json {
	const called = badgeOf(shoot, calledDeviceId);
	const source = shown.kind === 'black' ? undefined : shown.source;
	const file = source && files.get(source.fileId);
	const media = file && pictureCount(file.part);
	if (!source || !media || shown.kind === 'held') return gap(duration, { open_choir: { called, shown: shown.kind } });
	const mediaSeconds = flicksToSeconds(ownTimeAt(source, videoFrameToFlicks(fromFrame, rate)));
	return clipItem({
		name: file.clip.name,
		sourceRange: sourceRange(media, mediaSeconds, duration),
		availableRange: availableRange(media),
		address: addressOf(file.part),
		mediaName: file.part.relativePath,
		metadata: { angle: badgeOf(shoot, source.deviceId), called, shown: shown.kind },
		timeScalar: timeScalar(source.rateFactor, duration, ratePerSecond(rate))
	});
}

/** The master and what stands in for it, a track for each device; of two runs that go over into each other each ends in the middle. */
function programSound(writing: Writing, { sounds }: Plan): readonly Json[] {
	const tracks = groupBy(sounds, ({ run, turn, shiftFlicks }) => `${run.deviceId} ${turn} ${shiftFlicks}`);
	return [...tracks.values()].map((own) => {
		const { turn, shiftFlicks, run, channels: mixed } = own[0]!;
		const { deviceId } = run;
		const items = own.flatMap((interval, index) => soundItems(writing, interval, own[index - 1], own[index + 1]));
		const device = writing.shoot.devices.find((one) => one.id === deviceId);
		const channels = mixed.map(({ channel, gainDb, pan, isInverted, lowCutHz, curve }) => ({
			channel: channel + 1,
			name: device?.channelNames[channel] ?? '',
			people: peopleOnChannel(writing.shoot, deviceId, channel),
			gain_db: gainDb,
			pan,
			...(isInverted ? { polarity: 'inverted' } : {}),
			...(lowCutHz > 0 ? { low_cut_hz: lowCutHz } : {}),
			...(shiftFlicks !== 0 ? { later_seconds: flicksToSeconds(shiftFlicks) } : {}),
			...(curve && turn === 0 ? { opens_by_speech: true } : {})
		}));
		return track(`Program sound: ${device?.badge ?? ''} ${device?.name ?? ''}`, 'Audio', laid(items, SOUND_RATE), {
			enabled: true,
			metadata: { open_choir: { channels, ...(turn > 0 ? { stands_in: turn } : {}) } }
		});
	});
}

function soundItems(
	{ shoot, files, addressOf }: Writing,
	{ run, inFlicks, outFlicks }: SoundInterval,
	before: SoundInterval | undefined,
	after: SoundInterval | undefined
): readonly LaidItem[] {
	const sample = (flicks: number) => Math.round(flicksToSeconds(flicks) * SOUND_RATE);
	const begins = before && before.outFlicks > inFlicks ? (before.outFlicks + inFlicks) / 2 : inFlicks;
	const ends = after && after.inFlicks < outFlicks ? (after.inFlicks + outFlicks) / 2 : outFlicks;
	return run.files.flatMap(({ fileId, firstSampleFlicks }, index): LaidItem[] => {
		const from = sample(Math.max(begins, index === 0 ? begins : firstSampleFlicks));
		const to = sample(Math.min(ends, run.files[index + 1]?.firstSampleFlicks ?? ends));
		const file = files.get(fileId);
		const media = file && soundCount(file.part);
		if (to <= from || !media) return [];
		const ownSeconds = (flicks: number) => flicksToSeconds(ownTimeAt(run.course, flicks));
		const mediaSeconds = (sampleIndex: number) =>
			media.beginsSeconds + ownSeconds(samplesToFlicks(sampleIndex, SOUND_RATE)) - ownSeconds(firstSampleFlicks);
		const item = (begin: number) => (duration: Counted) =>
			clipItem({
				name: file.clip.name,
				sourceRange: sourceRange(media, mediaSeconds(begin), duration),
				availableRange: availableRange(media),
				address: addressOf(file.part),
				mediaName: file.part.relativePath,
				metadata: { device: badgeOf(shoot, run.deviceId), rate_ppm: file.clip.placement.ratePpm },
				timeScalar: timeScalar(run.course.rateFactor, duration, ratePerSecond(shoot.rate))
			});
		return cutBySlip(from, to, SOUND_RATE, run.course.rateFactor, ratePerSecond(shoot.rate)).map((piece) => ({
			...withinMedia(piece, media, mediaSeconds(piece.from)),
			item: item(piece.from)
		}));
	});
}

function deviceTracks(writing: Writing, device: Device, clips: readonly PlacedClip[]): readonly Json[] {
	const isCamera = device.kind === 'camera';
	const rate = isCamera ? ratePerSecond(writing.shoot.rate) : SOUND_RATE;
	const items = clips.flatMap((clip) => clip.parts.flatMap((part) => deviceItems(writing, device, clip, part, rate)));
	return lanes(items).map((row, index) =>
		track(
			`${device.badge} ${device.name}${index > 0 ? ` (${index + 1})` : ''}`,
			isCamera ? 'Video' : 'Audio',
			laid(row, rate),
			{ enabled: false, metadata: { open_choir: { badge: device.badge, channel_names: device.channelNames } } }
		)
	);
}

/** A file of a clip, from where the clip begins in it to where it ends. Before the timeline's zero nothing can stand: its head is left out. */
function deviceItems(
	{ shoot, addressOf }: Writing,
	device: Device,
	clip: PlacedClip,
	part: ClipPart,
	rate: number
): readonly LaidItem[] {
	const isCamera = device.kind === 'camera';
	const media = isCamera ? pictureCount(part) : soundCount(part);
	if (!media) return [];
	const own = isCamera ? asPicture(clip) : asSound(clip);
	const { placement } = own;
	const source = fileSource(own, part);
	const { rateFactor } = source;
	const place = (mediaFlicks: number) => flicksToSeconds(toTimeline(placement, mediaFlicks)) * rate;
	const beginsFlicks = Math.max(
		0,
		part.offsetFlicks + (isCamera ? part.picture!.startFlicks : part.sound!.startFlicks)
	);
	const exact = place(beginsFlicks);
	const from = Math.max(0, Math.round(exact));
	const to = Math.round(place(Math.min(clip.durationFlicks, part.offsetFlicks + part.durationFlicks)));
	if (to <= from) return [];
	const mediaSeconds = (at: number) => flicksToSeconds(ownTimeAt(source, secondsToFlicks(at / rate)));
	const item = (begin: number) => (duration: Counted) =>
		clipItem({
			name: clip.name,
			sourceRange: sourceRange(media, mediaSeconds(begin), duration),
			availableRange: availableRange(media),
			address: addressOf(part),
			mediaName: part.relativePath,
			metadata: placementNotes(clip, exact - Math.round(exact)),
			markers: markersOf(clip, part, media),
			timeScalar: timeScalar(rateFactor, duration, ratePerSecond(shoot.rate))
		});
	return cutBySlip(from, to, rate, rateFactor, ratePerSecond(shoot.rate)).map((piece) => ({
		...(isCamera ? piece : withinMedia(piece, media, mediaSeconds(piece.from))),
		item: item(piece.from)
	}));
}

/** @param remainder how much later than the item it really begins, in frames or samples */
function placementNotes(clip: PlacedClip, remainder: number): Json {
	const { placement } = clip;
	return {
		rate_ppm: placement.ratePpm,
		...(placement.bend ? { clock_bends_seconds: flicksToSeconds(greatestBend(placement.bend)) } : {}),
		method: placement.method,
		...(placement.byHand ? {} : { confidence: placement.confidence }),
		by_hand: placement.byHand,
		locked: placement.isLocked,
		start_flicks: placement.startFlicks,
		sound_start_flicks: asSound(clip).placement.startFlicks,
		picture_start_flicks: asPicture(clip).placement.startFlicks,
		remainder,
		...(clip.timecode ? { timecode: clip.timecode } : {})
	};
}

function markersOf(clip: Clip, part: ClipPart, media: MediaCount): readonly Json[] {
	return clip.syncPoints
		.filter(
			(point) => point.mediaFlicks >= part.offsetFlicks && point.mediaFlicks < part.offsetFlicks + part.durationFlicks
		)
		.map((point) =>
			marker(point.name, {
				value: countedAt(media, flicksToSeconds(point.mediaFlicks - part.offsetFlicks)),
				rate: media.rate
			})
		);
}

/** Who speaks, with what hears him, closest first; channels from 1. */
function peopleNotes({ people, devices }: Shoot): readonly Json[] {
	return people.map(({ name, channels }) => ({
		name,
		channels: channels.map(({ deviceId, channel }) => {
			const device = devices.find((one) => one.id === deviceId);
			return { device: device?.badge ?? '', channel: channel + 1, name: device?.channelNames[channel] ?? '' };
		})
	}));
}

function badgeOf(shoot: Shoot, deviceId: string): string {
	return shoot.devices.find((device) => device.id === deviceId)?.badge ?? '';
}
