import { createHash } from 'node:crypto';
import type { MediaFacts } from '../../core/gather/media-facts';
import type { Span } from '../../core/match/windows/listening-windows';
import { originalInput, type ToolArgument } from './tool-inputs';

/** Files of one sound: one, or those that hold its channels. */
export interface SoundFiles {
	readonly path: string;
	readonly channelFiles?: NonNullable<MediaFacts['audio']>['channelFiles'];
	/** Channels of each of the file's streams, where it has several. */
	readonly streamChannels?: NonNullable<MediaFacts['audio']>['streamChannels'];
}

/** What ffmpeg is told to open a sound, and how its filters find all its channels. */
export interface SoundInputs {
	readonly args: readonly ToolArgument[];
	readonly count: number;
	/** Filters that come first; empty, or ending in a semicolon. */
	readonly chains: string;
	/** Name of the sound in the filters. */
	readonly label: string;
}

/** Key of what is made of a file's sound: a take of several files is not what its first file is alone. */
export function soundKeyOf(identity: string, facts: MediaFacts): string {
	const { channelFiles, streamChannels } = facts.audio ?? {};
	if (!channelFiles && !streamChannels) return identity;
	const others = channelFiles?.map((file) => file.path) ?? streamChannels?.map((channels) => `${channels}`) ?? [];
	return createHash('sha256')
		.update([identity, ...others].join('\0'))
		.digest('hex')
		.slice(0, 32);
}

export function soundFilesOf(path: string, facts: MediaFacts): SoundFiles {
	const { channelFiles, streamChannels } = facts.audio ?? {};
	if (channelFiles) return { path, channelFiles };
	return streamChannels ? { path, streamChannels } : { path };
}

/**
 * @param at number of the first input among all of the command
 * @param before options that stand before each input
 */
export function soundInputs(
	{ path, channelFiles, streamChannels }: SoundFiles,
	at = 0,
	before: readonly string[] = []
): SoundInputs {
	const files = channelFiles ?? [{ path }];
	const args = files.flatMap((file) => [...before, ...originalInput(file.path)]);
	if (!channelFiles && !streamChannels) return { args, count: 1, chains: '', label: `[${at}:a:0]` };
	const pads = channelFiles
		? channelFiles.map((file, index) => ({ pad: `${at + index}:a:0`, channels: file.channels }))
		: streamChannels!.map((channels, stream) => ({ pad: `${at}:a:${stream}`, channels }));
	const chains: string[] = [];
	const labels: string[] = [];
	for (const [index, { pad, channels }] of pads.entries())
		for (let channel = 0; channel < channels; channel++) {
			labels.push(`[f${at}p${index}c${channel}]`);
			// One by one and all of one kind: merged by their supposed places, channels would change their order.
			chains.push(`[${pad}]pan=mono|c0=c${channel}${labels.at(-1)}`);
		}
	const label = `[m${at}]`;
	const merged = `${labels.join('')}amerge=inputs=${labels.length}${label};`;
	return { args, count: files.length, chains: `${chains.join(';')};${merged}`, label };
}

/** Read before a stretch and thrown away: decoders and resamplers need a run-up. */
const RUN_UP_SECONDS = 1;
/** Read behind it, for the resampler's other side. */
const RUN_OUT_SECONDS = 0.1;
/** ffmpeg counts in microseconds: a little before a sample finds that sample. */
const BEFORE_A_SAMPLE_SECONDS = 5e-6;

/** What ffmpeg is told to open a stretch of a sound. */
export interface StretchInputs extends SoundInputs {
	/** Filters that leave the stretch alone, to the sample, of sound that was brought to a rate. */
	cut(sampleRate: number): string;
}

/** A stretch of a sound, to the sample where its file's times lead there. @param stretch whole seconds since its first sample */
export function stretchInputs(
	path: string,
	facts: MediaFacts,
	{ fromSeconds, toSeconds }: Span,
	at = 0
): StretchInputs {
	const soundStart = facts.audio!.startSeconds;
	const runUp = Math.min(RUN_UP_SECONDS, fromSeconds);
	const seek = fromSeconds - runUp;
	const from = seek === 0 ? 0 : seek + soundStart - BEFORE_A_SAMPLE_SECONDS;
	const length = toSeconds - seek + RUN_OUT_SECONDS + (from > 0 ? 0 : soundStart);
	const before = [...(from > 0 ? ['-ss', from.toFixed(6)] : []), '-t', `${length}`, '-vn', '-sn', '-dn'];
	return {
		...soundInputs(soundFilesOf(path, facts), at, before),
		cut(sampleRate) {
			const [first, end] = [runUp * sampleRate, (runUp + toSeconds - fromSeconds) * sampleRate];
			return `asetpts=N/SR/TB,atrim=start_sample=${first}:end_sample=${end},asetpts=N/SR/TB`;
		}
	};
}
