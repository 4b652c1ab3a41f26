import type { PictureFacts } from './picture-facts';
import type { Rational } from '../time/rational';

/** What a media file says about itself. Times are seconds. */
export interface MediaFacts {
	readonly container: string;
	readonly durationSeconds: number;
	readonly video?: PictureFacts & {
		readonly codec: string;
		readonly width: number;
		readonly height: number;
		readonly rate: Rational;
		/** Media time of the first picture. */
		readonly startSeconds: number;
	};
	readonly audio?: {
		readonly codec: string;
		readonly sampleRate: number;
		readonly channels: number;
		/** Media time of the first sample. */
		readonly startSeconds: number;
		/** Empty text where the file names no channel. */
		readonly channelNames: readonly string[];
		/** How many sound streams the file has. */
		readonly streams?: number;
		/** Channels of each stream that is used, where there are several; all of them are the clip's channels, one after another. */
		readonly streamChannels?: readonly number[];
		/** More than 16 bits a sample, without loss: it is listened to at that depth. */
		readonly isDeep?: boolean;
		/**
		 * Files that hold one channel each, or some, of the same take, in the order of the channels; this one is first. All
		 * begin together.
		 */
		readonly channelFiles?: readonly { readonly path: string; readonly channels: number }[];
	};
	/** An MP4 written in fragments: places in it are found less exactly. */
	readonly isFragmented?: boolean;
	/** Time the container gives its earliest stream; media time counts from it. */
	readonly containerStartSeconds: number;
	/** Clock time of media time 0 as seconds since midnight, from timecode or a broadcast-wave time reference. */
	readonly clockSeconds?: number;
	/** Length of that clock's day, and what it counts in: a frame or a sample. */
	readonly clockDaySeconds?: number;
	readonly clockFrameSeconds?: number;
	/** The label as written, for cameras. */
	readonly timecode?: string;
	/** What its frames are counted at, where the label tells or the stream does. */
	readonly timecodeRate?: Rational;
	readonly dropFrame?: boolean;
	readonly creationTime?: string;
	readonly scene?: string;
	readonly take?: string;
	readonly circled?: boolean;
	readonly note?: string;
	readonly tape?: string;
	/** Files of one take carry the same, where a recorder writes several. */
	readonly takeId?: string;
	/** What made it. */
	readonly make?: string;
	readonly model?: string;
	readonly serial?: string;
	/** Pictures do not come at even times. */
	readonly isVariableRate?: boolean;
}
