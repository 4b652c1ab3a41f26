import { createHash } from 'node:crypto';
import type { MediaFacts } from '../../core/gather/media-facts';
import { localInput } from './run-tool';

/** Files of one sound: one, or those that hold its channels. */
export interface SoundFiles {
	readonly path: string;
	readonly channelFiles?: NonNullable<MediaFacts['audio']>['channelFiles'];
}

/** What ffmpeg is told to open a sound, and how its filters find all its channels. */
export interface SoundInputs {
	readonly args: readonly string[];
	readonly count: number;
	/** Filters that come first; empty, or ending in a semicolon. */
	readonly chains: string;
	/** Name of the sound in the filters. */
	readonly label: string;
}

/** Key of what is made of a file's sound: a take of several files is not what its first file is alone. */
export function soundKeyOf(identity: string, facts: MediaFacts): string {
	const channelFiles = facts.audio?.channelFiles;
	if (!channelFiles) return identity;
	return createHash('sha256')
		.update([identity, ...channelFiles.map((file) => file.path)].join('\0'))
		.digest('hex')
		.slice(0, 32);
}

export function soundFilesOf(path: string, facts: MediaFacts): SoundFiles {
	const channelFiles = facts.audio?.channelFiles;
	return channelFiles ? { path, channelFiles } : { path };
}

/**
 * @param at number of the first input among all of the command
 * @param before options that stand before each input
 */
export function soundInputs({ path, channelFiles }: SoundFiles, at = 0, before: readonly string[] = []): SoundInputs {
	if (!channelFiles) return { args: [...before, ...localInput(path)], count: 1, chains: '', label: `[${at}:a:0]` };
	const chains: string[] = [];
	const labels: string[] = [];
	for (const [index, { channels }] of channelFiles.entries())
		for (let channel = 0; channel < channels; channel++) {
			labels.push(`[f${at + index}c${channel}]`);
			// One by one and all of one kind: merged by their supposed places, channels would change their order.
			chains.push(`[${at + index}:a:0]pan=mono|c0=c${channel}${labels.at(-1)}`);
		}
	const label = `[m${at}]`;
	return {
		args: channelFiles.flatMap((file) => [...before, ...localInput(file.path)]),
		count: channelFiles.length,
		chains: `${chains.join(';')};${labels.join('')}amerge=inputs=${labels.length}${label};`,
		label
	};
}
