import { comparePaths } from './compare-paths';
import type { MediaFacts } from './media-facts';

/** A file as far as its take is asked for. */
export interface ChannelFile {
	readonly id: string;
	readonly path: string;
	readonly facts: MediaFacts;
}

/** Files that are the channels of one take, in order. */
export interface Take<File extends ChannelFile> {
	readonly files: readonly File[];
	/** What the files call their channels. */
	readonly channelNames: readonly string[];
}

/** What names a channel at the end of a name: "_Tr3", "-ch02", " input 1", "_L", "_LR", "_mix". */
const CHANNEL_MARK =
	/[\s_.-]*(?:(?<=[\s_.-]|^)(?:tr|trk|track|ch|chan|channel|in|input|iso|mic|a)[\s_.-]?(?<number>\d{1,2})|(?<=[\s_.-])(?<side>l|r|m|s|lr|ms|mix|left|right|mid|side)|(?<=[\s_.-])(?<bare>\d{1,2}))$/i;
/** Files of one take are cut at the same sample, or at the same block. */
const MAX_DIFFERENCE_SECONDS = 0.1;

/**
 * Finds recordings that a recorder wrote as one file for each channel: in one folder, of one name but for the channel's
 * mark, equally long, begun at the same moment by their clock.
 * @returns takes of two and more files; all other files are in none
 */
export function findChannelFiles<File extends ChannelFile>(files: readonly File[]): readonly Take<File>[] {
	const heaps = new Map<string, File[]>();
	for (const file of files) {
		const key = takeKey(file);
		if (key !== undefined) heaps.set(key, [...(heaps.get(key) ?? []), file]);
	}
	return [...heaps.values()].flatMap((heap): Take<File>[] => {
		const sorted = [...heap].sort((a, b) => orderOf(a) - orderOf(b) || comparePaths(a.path, b.path));
		return areOneTake(sorted) ? [{ files: sorted, channelNames: sorted.flatMap((file) => channelNamesOf(file)) }] : [];
	});
}

function takeKey({ path, facts }: ChannelFile): string | undefined {
	const { audio, video, takeId, container, clockSeconds } = facts;
	if (!audio || video || audio.channels > 2 || audio.channelFiles) return undefined;
	const folder = path.slice(0, path.lastIndexOf('/') + 1);
	const name = nameOf(path);
	const mark = CHANNEL_MARK.exec(name);
	if (takeId === undefined && !mark) return undefined;
	return [
		folder,
		takeId ?? name.slice(0, mark!.index).toLowerCase(),
		container,
		audio.codec,
		audio.sampleRate,
		clockSeconds
	].join('\0');
}

function nameOf(path: string): string {
	return path.slice(path.lastIndexOf('/') + 1).replace(/\.[^.]+$/, '');
}

function areOneTake(files: readonly ChannelFile[]): boolean {
	const [first] = files;
	if (!first || files.length < 2) return false;
	const marks = files.map(({ path }) => CHANNEL_MARK.exec(nameOf(path)));
	if (new Set(marks.map((mark) => mark?.[0].toLowerCase())).size < files.length) return false;
	const isTogether = files.every(
		({ facts }) =>
			Math.abs(facts.durationSeconds - first.facts.durationSeconds) <= MAX_DIFFERENCE_SECONDS &&
			facts.takeId === first.facts.takeId
	);
	if (!isTogether) return false;
	// A bare number may be a counter as well: only a clock, or the recorder's own mark, tells that they ran together.
	const isBare = marks.some((mark) => mark?.groups?.['bare'] !== undefined || !mark);
	return !isBare || first.facts.takeId !== undefined || first.facts.clockSeconds !== undefined;
}

/** Channels in the order of their numbers, a mix behind them. */
function orderOf({ path }: ChannelFile): number {
	const groups = CHANNEL_MARK.exec(nameOf(path))?.groups;
	const number = groups?.['number'] ?? groups?.['bare'];
	if (number !== undefined) return Number(number);
	const side = groups?.['side']?.toLowerCase() ?? '';
	return ['l', 'left', 'm', 'mid'].includes(side) ? 1 : ['r', 'right', 's', 'side'].includes(side) ? 2 : 100;
}

function channelNamesOf({ path, facts }: ChannelFile): readonly string[] {
	const mark = CHANNEL_MARK.exec(nameOf(path))?.[0].replace(/^[\s_.-]+/, '') ?? '';
	const names = facts.audio!.channelNames;
	if (names.some(Boolean) || !mark) return names;
	const sides = names.length === 2 ? [' L', ' R'] : [''];
	return sides.map((side) => (/^\d+$/.test(mark) ? '' : `${mark}${side}`));
}
