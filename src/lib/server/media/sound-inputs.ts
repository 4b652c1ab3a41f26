import { createHash } from 'node:crypto';
import type { MediaFacts } from '../../core/gather/media-facts';
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
