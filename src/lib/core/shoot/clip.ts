import type { ColourTags, PictureFacts, PictureSize } from '../gather/picture-facts';
import type { StrayReason } from '../solve/system/line-ups';
import type { Rational } from '../time/rational';
import { type Placement, toTimeline } from './placement';

export interface Clip {
	readonly id: string;
	readonly deviceId: string;
	readonly name: string;
	readonly durationFlicks: number;
	readonly parts: readonly ClipPart[];
	/** Notes from the day; empty text where there are none. */
	readonly scene: string;
	readonly shot: string;
	readonly take: string;
	readonly circled: boolean;
	readonly note: string;
	readonly placement?: Placement;
	readonly stray?: StrayReason;
	/** More about it, such as the places it could have. */
	readonly strayDetail?: string;
	readonly syncPoints: readonly SyncPoint[];
	/** In and out point, in its own time. */
	readonly inFlicks?: number;
	readonly outFlicks?: number;
	/** Media times of claps and the like. */
	readonly sharpSounds: readonly number[];
	readonly timecode?: string;
	/** What its frames are counted at: "29.97 drop-frame". */
	readonly timecodeWords?: string;
	readonly clockSeconds?: number;
	/** Timecode that was recorded as sound. */
	readonly heardTimecode?: HeardTimecode;
	/** Day it was recorded on by its device, yyyy-mm-dd. */
	readonly date?: string;
	/** When its file was made, ISO 8601: in UTC with a Z, by the device's own clock without one. */
	readonly recordedAt?: string;
	/** What made it. */
	readonly maker?: string;
}

/** Timecode recorded as sound on one of the channels. */
export interface HeardTimecode {
	/** From 0. */
	readonly channel: number;
	/** Share of the frames that could be read. */
	readonly quality: number;
	/** Clock time of media time 0, length of its day and of a frame, in seconds. */
	readonly seconds: number;
	readonly daySeconds: number;
	readonly frameSeconds: number;
}

/** One file of a clip. */
export interface ClipPart {
	readonly fileId: string;
	/** Key of the file in the caches. */
	readonly identity: string;
	/** Where it lies; originals are never written to. */
	readonly path: string;
	readonly relativePath: string;
	readonly sizeBytes: number;
	/** Where the file's media time 0 lies within the clip. */
	readonly offsetFlicks: number;
	readonly durationFlicks: number;
	readonly container: string;
	/** Clock time of its media time 0, seconds since midnight, by its own timecode or time reference. */
	readonly clockSeconds?: number;
	/** No longer where it was. */
	readonly isMissing?: boolean;
	readonly sound?: {
		readonly codec: string;
		readonly sampleRate: number;
		readonly channels: number;
		/** How many sound streams the file has. */
		readonly streams: number;
		/** The listening sound has 32 bits a sample, not 16. */
		readonly isDeep?: boolean;
		/** Names of the files that hold its channels, where a recorder wrote several. */
		readonly channelFiles?: readonly string[];
		/** Media time within the file of the first sample. */
		readonly startFlicks: number;
		/** Samples a channel at the listening rate; reckoned from its length until they are counted. */
		readonly samples: number;
		/** The same, counted while its waveform was made; nothing until then. */
		readonly listeningSamples?: number;
	};
	readonly picture?: {
		readonly codec: string;
		readonly rate: Rational;
		readonly width: number;
		readonly height: number;
		/** Upright, in square points. */
		readonly shown: PictureSize;
		readonly rotation?: PictureFacts['rotation'];
		readonly interlaced?: PictureFacts['interlaced'];
		readonly colour?: ColourTags;
		/** Media time within the file of the first picture. */
		readonly startFlicks: number;
		/** The same as the file counts, in seconds. */
		readonly ownStartSeconds: number;
		/** Pictures do not come at even times. */
		readonly isVariableRate: boolean;
	};
}

export interface SyncPoint {
	readonly id: string;
	readonly clipId: string;
	readonly name: string;
	readonly mediaFlicks: number;
	/** What marks it: a sound, or what is seen in the picture. */
	readonly sense: 'heard' | 'seen';
}

/** A clip alone, on a line-up of its own that begins with it. */
export function atOwnTime(clip: Clip): PlacedClip {
	const placement: Placement = {
		lineUpId: '',
		startFlicks: 0,
		ratePpm: 0,
		measuredRatePpm: 0,
		method: 'clip start',
		confidence: 1,
		residualSeconds: 0,
		byHand: false,
		isLocked: false,
		airFlicks: 0
	};
	return { ...clip, placement };
}

/** The file of a clip that holds a media time. */
export function partAt(clip: Clip, mediaFlicks: number): ClipPart | undefined {
	return clip.parts.find(
		(part) => mediaFlicks >= part.offsetFlicks && mediaFlicks < part.offsetFlicks + part.durationFlicks
	);
}

/** A file that was found: to be read, or read and to be sorted. */
export interface NewFile extends Pick<Clip, 'timecode' | 'clockSeconds'> {
	readonly fileId: string;
	readonly relativePath: string;
	readonly sizeBytes: number;
	/** What it tells, once it is read. */
	readonly part?: ClipPart;
}

export interface BadFile {
	readonly fileId: string;
	readonly relativePath: string;
	readonly reason: string;
	/** It was there and is gone; it can be found again. */
	readonly isMissing: boolean;
}

export interface PlacedClip extends Clip {
	readonly placement: Placement;
}

export function placedEnd(clip: PlacedClip): number {
	return toTimeline(clip.placement, clip.durationFlicks);
}
