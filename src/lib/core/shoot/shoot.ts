import type { StrayReason } from '../solve/line-ups';
import type { Rational } from '../time/rational';

/** The shoot as the page, the renderer and the exchange files see it. All times are whole flicks. */
export interface Shoot {
	readonly id: string;
	readonly name: string;
	readonly folder: string;
	/** Grows with every change. */
	readonly revision: number;
	/** Frame rate and size of the line-up: the main camera's. */
	readonly rate: Rational;
	readonly width: number;
	readonly height: number;
	/** Rate and size were set by hand. */
	readonly hasOwnRate: boolean;
	/** Temperature of the air, for air delays. */
	readonly airCelsius: number;
	/** Folders its files come from. */
	readonly sources: readonly { readonly id: string; readonly path: string; readonly kind: 'folder' | 'upload' }[];
	readonly mainCameraId?: string;
	readonly devices: readonly Device[];
	readonly clips: readonly Clip[];
	readonly badFiles: readonly BadFile[];
	/** Files that are in no clip yet. */
	readonly newFiles: readonly NewFile[];
	readonly lineUps: readonly ShootLineUp[];
	readonly master: readonly MasterChannel[];
	readonly programs: readonly StoredProgram[];
	readonly markers: readonly Marker[];
	readonly signatures: readonly Signature[];
	readonly undo?: string;
	readonly redo?: string;
}

export interface Device {
	readonly id: string;
	readonly folder: string;
	readonly name: string;
	/** A, B, C… for cameras; 1, 2, 3… for recorders. */
	readonly badge: string;
	readonly kind: 'camera' | 'recorder';
	/** Names of the channels, given by hand or as the files tell them; empty text where there is none. */
	readonly channelNames: readonly string[];
	/** Why its clips are taken for one device's. */
	readonly reasons: readonly string[];
	/** How far its microphone stands from where the sound is made. */
	readonly airMetres: number;
	/** Whether its clock's error is taken out. */
	readonly correctsDrift: boolean;
}

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
	/** No longer where it was. */
	readonly isMissing?: boolean;
	readonly sound?: {
		readonly codec: string;
		readonly sampleRate: number;
		readonly channels: number;
		/** How many sound streams the file has; the first one is used. */
		readonly streams: number;
		/** The listening sound has 32 bits a sample, not 16. */
		readonly isDeep?: boolean;
		/** Names of the files that hold its channels, where a recorder wrote several. */
		readonly channelFiles?: readonly string[];
		/** Media time within the file of the first sample. */
		readonly startFlicks: number;
		/** Samples a channel of the listening sound; nothing until it is ready. */
		readonly listeningSamples?: number;
	};
	readonly picture?: {
		readonly codec: string;
		readonly rate: Rational;
		readonly width: number;
		readonly height: number;
		/** Media time within the file of the first picture. */
		readonly startFlicks: number;
		/** Pictures do not come at even times. */
		readonly isVariableRate: boolean;
		readonly proxyReady: boolean;
		/** While it is being made: how much of it can be played. */
		readonly proxyFlicks?: number;
	};
}

/** `timelineFlicks = startFlicks + mediaFlicks * (1 + ratePpm * 1e-6)` */
export interface Placement {
	readonly lineUpId: string;
	readonly startFlicks: number;
	/** In effect: 0 where the device's clock is not corrected. */
	readonly ratePpm: number;
	readonly measuredRatePpm: number;
	readonly method: PlacementMethod;
	readonly confidence: number;
	readonly residualSeconds: number;
	/** Set or moved by hand: a later run leaves it alone. */
	readonly byHand: boolean;
	/** Moved by nothing, not even by hand. */
	readonly isLocked: boolean;
	/** Time the sound needs from the stage to the device's microphone: its picture and its sound part by so much. */
	readonly airFlicks: number;
}

export type PlacementMethod = 'audio' | 'timecode' | 'sync point' | 'in point' | 'out point' | 'clip start' | 'hand';

/** A named moment of a line-up. */
export interface Marker {
	readonly id: string;
	readonly lineUpId: string;
	readonly atFlicks: number;
	readonly name: string;
}

/** Somebody found a line-up in sync. */
export interface Signature {
	readonly id: string;
	readonly lineUpId: string;
	readonly signedBy: string;
	/** yyyy-mm-dd */
	readonly signedOn: string;
	readonly remark: string;
	/** Of all that was placed then: another one today means that something was changed. */
	readonly digest: string;
}

export interface SyncPoint {
	readonly id: string;
	readonly clipId: string;
	readonly name: string;
	readonly mediaFlicks: number;
	/** What marks it: a sound, or what is seen in the picture. */
	readonly sense: 'heard' | 'seen';
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

export interface ShootLineUp {
	readonly id: string;
	readonly referenceDeviceId: string;
	/** What speaks for its places, as the last line-up found it. */
	readonly evidence: readonly PairNote[];
	readonly clocks: readonly { readonly deviceId: string; readonly words: string }[];
}

/** One pair of clips that heard the same. */
export interface PairNote {
	readonly a: string;
	readonly b: string;
	/** Start of b less start of a. */
	readonly lagSeconds: number;
	readonly overlapSeconds: number;
	readonly residualSeconds: number;
	readonly windows: number;
	/** Windows that agree on one line. */
	readonly agreeing: number;
	readonly strength: number;
}

export interface MasterChannel {
	readonly deviceId: string;
	readonly channel: number;
	readonly gainDb: number;
	/** -1 left, 0 both sides, 1 right. */
	readonly pan: number;
}

export interface StoredProgram {
	readonly lineUpId: string;
	readonly inFlicks: number;
	readonly outFlicks: number;
	readonly calls: readonly StoredCall[];
}

export interface StoredCall {
	readonly id: string;
	readonly atFlicks: number;
	readonly deviceId: string;
}

/** Where a media time of a placed clip lies on its line-up. */
export function toTimeline(placement: Placement, mediaFlicks: number): number {
	return placement.startFlicks + mediaFlicks * (1 + placement.ratePpm * 1e-6);
}

/** The media time of a placed clip that plays at a time of its line-up. */
export function toMedia(placement: Placement, timelineFlicks: number): number {
	return (timelineFlicks - placement.startFlicks) / (1 + placement.ratePpm * 1e-6);
}

export interface PlacedClip extends Clip {
	readonly placement: Placement;
}

/** Clips of one line-up, in order of time. */
export function placedClips(shoot: Shoot, lineUpId: string): readonly PlacedClip[] {
	return shoot.clips
		.filter((clip): clip is PlacedClip => clip.placement?.lineUpId === lineUpId)
		.sort((a, b) => a.placement.startFlicks - b.placement.startFlicks);
}

export function placedEnd(clip: PlacedClip): number {
	return toTimeline(clip.placement, clip.durationFlicks);
}

/** First and last moment of a line-up; both 0 when nothing is placed. */
export function lineUpRange(shoot: Shoot, lineUpId: string): { readonly inFlicks: number; readonly outFlicks: number } {
	const clips = placedClips(shoot, lineUpId);
	if (clips.length === 0) return { inFlicks: 0, outFlicks: 0 };
	return {
		inFlicks: Math.min(...clips.map((clip) => clip.placement.startFlicks)),
		outFlicks: Math.max(...clips.map(placedEnd))
	};
}

/** The device's clip that runs at a moment of a line-up. */
export function clipAt(clips: readonly PlacedClip[], deviceId: string, timelineFlicks: number): PlacedClip | undefined {
	return clips.find(
		(clip) =>
			clip.deviceId === deviceId && timelineFlicks >= clip.placement.startFlicks && timelineFlicks < placedEnd(clip)
	);
}

/** The file of a clip that holds a media time. */
export function partAt(clip: Clip, mediaFlicks: number): ClipPart | undefined {
	return clip.parts.find(
		(part) => mediaFlicks >= part.offsetFlicks && mediaFlicks < part.offsetFlicks + part.durationFlicks
	);
}

/** Badges as they are given at first: letters to cameras, numbers to recorders, in order. */
export function badgesFor(kinds: readonly Device['kind'][]): readonly string[] {
	let cameras = 0;
	let recorders = 0;
	return kinds.map((kind) => (kind === 'camera' ? letters(cameras++) : `${++recorders}`));
}

function letters(index: number): string {
	return index < 26 ? String.fromCharCode(65 + index) : letters(Math.floor(index / 26) - 1) + letters(index % 26);
}
