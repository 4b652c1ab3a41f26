import { open } from 'node:fs/promises';
import type { HeardChannel, SpeakingPerson } from '../../core/master/heard-channel';
import { judge, type Judgement } from '../../core/master/judge';
import { createReadingsCollector, type ReadingsCollector } from '../../core/measure/channel-readings';
import type { FrameRange } from '../../core/measure/clipping';
import { FRAMES_A_SECOND, READINGS_RATE, readingAt, RECORD_BYTES } from '../../core/measure/readings';
import { measureSound } from '../../core/measure/sound-measures';
import { type Course, courseAt } from '../../core/time/course';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';

/** Readings of a file, and where its sound lies on a line-up. */
export interface HeardFile {
	/** Of the readings. */
	readonly path: string;
	readonly channels: number;
	/** The device's channel that its first one is. */
	readonly firstChannel: number;
	/** A channel. */
	readonly samples: number;
	/** From the time since its first sample to the line-up's. */
	readonly course: Course;
	/** It is heard in `[inFlicks, outFlicks)`. */
	readonly inFlicks: number;
	readonly outFlicks: number;
}

export interface HeardDevice {
	readonly deviceId: string;
	/** One a channel; empty text where there is no name. */
	readonly channelNames: readonly string[];
	readonly files: readonly HeardFile[];
	/** Channels that hold the same as another one. */
	readonly twins: readonly { readonly channel: number; readonly sameAs: number }[];
}

/** What is to be judged, over a stretch of a line-up. */
export interface JudgeTask {
	readonly inFlicks: number;
	readonly outFlicks: number;
	/** What of it is measured: the program; all of it where there is none. */
	readonly measured?: { readonly inFlicks: number; readonly outFlicks: number };
	readonly devices: readonly HeardDevice[];
	/** As an editor has named them; they are proposed where he has not. */
	readonly people?: readonly {
		readonly name: string;
		readonly channels: readonly { readonly deviceId: string; readonly channel: number }[];
	}[];
}

const FLICKS_A_FRAME = FLICKS_PER_SECOND / FRAMES_A_SECOND;
/** Channels of a device that are read together: of each so much stays in memory that a long evening of many would not fit. */
const CHANNELS_TOGETHER = 4;
const SECONDS_A_BLOCK = 20;

/** Reads all sources' readings off and judges them. Memory: about 3 MB a channel-hour, 20 MB for each that is being read. */
export async function judgeSources({
	inFlicks,
	outFlicks,
	devices,
	people,
	measured = { inFlicks, outFlicks }
}: JudgeTask): Promise<Judgement> {
	const frames = Math.max(0, Math.floor((outFlicks - inFlicks) / FLICKS_A_FRAME));
	const frameOf = (flicks: number) => Math.max(0, Math.min(frames, Math.round((flicks - inFlicks) / FLICKS_A_FRAME)));
	const stretch: Stretch = {
		inFlicks,
		frames,
		range: { fromFrame: frameOf(measured.inFlicks), toFrame: frameOf(measured.outFlicks) }
	};
	const channels: HeardChannel[] = [];
	for (const device of devices)
		for (let first = 0; first < device.channelNames.length; first += CHANNELS_TOGETHER) {
			const end = Math.min(device.channelNames.length, first + CHANNELS_TOGETHER);
			channels.push(...(await hearChannels(device, first, end, stretch)));
		}
	return judge(channels, people && placesOf(people, channels), stretch.range);
}

function placesOf(
	people: NonNullable<JudgeTask['people']>,
	channels: readonly HeardChannel[]
): readonly SpeakingPerson[] {
	return people.map(({ name, channels: own }) => ({
		name,
		channels: own
			.map(({ deviceId, channel }) => channels.findIndex((one) => one.deviceId === deviceId && one.channel === channel))
			.filter((index) => index >= 0)
	}));
}

/** A stretch of a line-up in frames, and what of it is measured. */
interface Stretch {
	readonly inFlicks: number;
	readonly frames: number;
	readonly range: FrameRange;
}

async function hearChannels(
	device: HeardDevice,
	first: number,
	end: number,
	stretch: Stretch
): Promise<readonly HeardChannel[]> {
	const { inFlicks, frames, range } = stretch;
	const seconds = Math.ceil((range.toFrame - range.fromFrame) / FRAMES_A_SECOND) + 1;
	const [measuredIn, measuredOut] = [range.fromFrame, range.toFrame].map(
		(frame) => inFlicks + frame * FLICKS_A_FRAME
	) as [number, number];
	const collectors = Array.from({ length: end - first }, () => createReadingsCollector(frames, seconds));
	const covered = new Float64Array(end - first);
	for (const file of device.files) {
		const own = [Math.max(first, file.firstChannel), Math.min(end, file.firstChannel + file.channels)] as const;
		if (own[1] <= own[0]) continue;
		const runs = Math.max(0, Math.min(file.outFlicks, measuredOut) - Math.max(file.inFlicks, measuredIn));
		for (let channel = own[0]; channel < own[1]; channel++) covered[channel - first] = covered[channel - first]! + runs;
		await readFile(file, stretch, (channel) => collectors[file.firstChannel + channel - first], own);
	}
	return collectors.map((collector, index) => {
		const channel = first + index;
		const { track, readings } = collector.finish();
		const sameAs = device.twins.find((one) => one.channel === channel)?.sameAs;
		return {
			deviceId: device.deviceId,
			channel,
			name: device.channelNames[channel]!,
			coverage: measuredOut > measuredIn ? Math.min(1, covered[index]! / (measuredOut - measuredIn)) : 0,
			track,
			sound: measureSound(track, readings, range),
			...(sameAs === undefined ? {} : { sameAs })
		};
	});
}

/** Gives the seconds of a file that lie within the stretch to the collectors of its channels. */
async function readFile(
	{ path, channels, firstChannel, samples, course, inFlicks: fileIn, outFlicks: fileOut }: HeardFile,
	{ inFlicks, frames, range }: Stretch,
	collectorOf: (channel: number) => ReadingsCollector | undefined,
	[from, to]: readonly [number, number]
): Promise<void> {
	const seconds = Math.ceil(samples / READINGS_RATE);
	const frameAt = (second: number) => (courseAt(course, second * FLICKS_PER_SECOND) - inFlicks) / FLICKS_A_FRAME;
	const isHeard = (second: number) => {
		const begins = courseAt(course, second * FLICKS_PER_SECOND);
		const ends = courseAt(course, (second + 1) * FLICKS_PER_SECOND);
		return begins < fileOut && ends > fileIn && frameAt(second) < frames && frameAt(second + 1) > 0;
	};
	const file = await open(path, 'r');
	try {
		const block = new Uint8Array(SECONDS_A_BLOCK * channels * RECORD_BYTES);
		for (let begin = 0; begin < seconds; begin += SECONDS_A_BLOCK) {
			const count = Math.min(SECONDS_A_BLOCK, seconds - begin);
			const wanted = Array.from({ length: count }, (_, index) => begin + index).filter(isHeard);
			if (wanted.length === 0) continue;
			const bytes = count * channels * RECORD_BYTES;
			const { bytesRead } = await file.read(block, 0, bytes, begin * channels * RECORD_BYTES);
			for (const second of wanted) {
				const at = (second - begin) * channels * RECORD_BYTES;
				if (at + channels * RECORD_BYTES > bytesRead) break;
				for (let channel = from - firstChannel; channel < to - firstChannel; channel++)
					collectorOf(channel)?.add(
						readingAt(block, at + channel * RECORD_BYTES),
						frameAt(second),
						frameAt(second + 1),
						frameAt(second) >= range.fromFrame && frameAt(second + 1) <= range.toFrame
					);
			}
		}
	} finally {
		await file.close();
	}
}
