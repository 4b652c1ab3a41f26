import { areReelsOfOne, deviceFolderOf, withoutDays } from './device-folder';
import { areParallel, type FileName, parseFileName } from './file-name';
import type { MediaFacts } from './media-facts';
import { areTimed, ranTogether, type RecordedSpan, spansOf } from './recorded-span';

/** A file as far as its device is asked for. */
export interface SortableFile {
	readonly id: string;
	/** Below the shoot's folder, with forward slashes. */
	readonly path: string;
	readonly facts: MediaFacts;
	/** The device it belongs to already: decided before, or by the editor. */
	readonly device?: string;
}

export interface SortedDevice {
	/** Set where its files belong to a device that is known. */
	readonly device?: string;
	/** What it could be called. */
	readonly name: string;
	readonly kind: 'camera' | 'recorder';
	/** Why they are one device, in sentences; the same for all of them. */
	readonly reasons: readonly string[];
	readonly fileIds: readonly string[];
}

/** A file with what is compared. */
interface Traits {
	readonly file: SortableFile;
	readonly name: FileName;
	/** Folder the file itself lies in, and the one that stands for a device. */
	readonly folder: string;
	readonly deviceFolder: string;
	/** The folder without days and cards. */
	readonly dayless: string;
	readonly isCamera: boolean;
	/** Files that differ in it are never two of one count. */
	readonly place: string;
	readonly format: string;
	readonly maker: string;
	readonly serial: string;
	readonly spans: readonly RecordedSpan[];
}

/** Files held to be of one device, so far. */
interface Heap {
	readonly members: Traits[];
	readonly reasons: Set<string>;
}

/** Why two heaps, told by their places in the list, could be one. */
interface Bond {
	readonly a: number;
	readonly b: number;
	readonly weight: number;
	readonly reason: string;
}

/**
 * Sorts files into devices by what they tell: serial numbers and makers, folders, names that go on counting, formats, and
 * the rule that a device cannot record two clips at once. Where that leaves it open, files stay apart: two devices taken
 * for one spoil a line-up, one taken for two does not.
 */
export function sortIntoDevices(files: readonly SortableFile[]): readonly SortedDevice[] {
	const heaps = runsOf(files.map(traitsOf)).map((members): Heap => ({ members, reasons: new Set() }));
	const bonds = bondsBetween(heaps, mixedFolders(heaps));
	const owner = heaps.map((_, index) => index);
	const rootOf = (index: number): number => (owner[index] === index ? index : rootOf(owner[index]!));
	for (const { a, b, reason } of bonds) {
		const [x, y] = [rootOf(a), rootOf(b)].sort((one, other) => one - other) as [number, number];
		if (x === y) {
			heaps[x]!.reasons.add(reason);
			continue;
		}
		if (areBarred(heaps[x]!, heaps[y]!)) continue;
		heaps[x]!.members.push(...heaps[y]!.members);
		for (const one of [...heaps[y]!.reasons, reason]) heaps[x]!.reasons.add(one);
		owner[y] = x;
	}
	const roots = heaps.filter((_, index) => owner[index] === index);
	const names = namesOf(roots);
	return roots.map((heap, index) => describe(heap, index, roots, names));
}

function traitsOf(file: SortableFile): Traits {
	const { facts, path } = file;
	const name = parseFileName(path);
	const { video, audio } = facts;
	const folder = path.split('/').slice(0, -1).join('/');
	const format = [
		...[facts.container, video?.codec, video?.width, video?.height, video?.rate.num, video?.rate.den],
		...[audio?.codec, audio?.sampleRate]
	].join(' ');
	return {
		file,
		name,
		folder,
		place: [folder, video !== undefined, name.series, name.copy, format].join('\0'),
		deviceFolder: deviceFolderOf(path),
		dayless: withoutDays(folder),
		isCamera: video !== undefined,
		format,
		maker: [facts.make, facts.model].filter(Boolean).join(' '),
		serial: facts.serial ?? '',
		spans: spansOf(facts, name)
	};
}

/** A counter may leap this far from clip to clip: photographs count too, and clips are deleted. */
const MAX_LEAP = 300;
/** Without a clock, a leap this far is another device's counter. */
const MAX_UNTIMED_LEAP = 30;

/** Files that nothing keeps apart and whose names count on, in one folder. */
function runsOf(files: readonly Traits[]): Traits[][] {
	const sorted = [...files].sort(
		(a, b) => compare(a.place, b.place) || counterOf(a) - counterOf(b) || compare(a.file.path, b.file.path)
	);
	const open: Traits[][] = [];
	for (const one of sorted) {
		const fitting = open.filter((run) => goesOn(run, one)).sort((x, y) => counterOf(y.at(-1)!) - counterOf(x.at(-1)!));
		if (fitting[0]) fitting[0].push(one);
		else open.push([one]);
	}
	return open;
}

function counterOf({ name }: Traits): number {
	return name.counter ?? name.clockSeconds ?? 0;
}

function compare(a: string, b: string): number {
	return a.localeCompare(b, 'en', { numeric: true });
}

function goesOn(run: readonly Traits[], next: Traits): boolean {
	const last = run.at(-1)!;
	if (last.place !== next.place || !isCounting(last, next)) return false;
	return !run.some((one) => isBarred(one, next)) && !goesBack(last, next);
}

/** Whether two names of one series are two of a count, rather than two words. */
function isCounting(a: Traits, b: Traits): boolean {
	if (a.name.clockSeconds !== undefined && b.name.clockSeconds !== undefined) return true;
	if (a.name.counter === undefined || b.name.counter === undefined) return false;
	const leap = b.name.counter - a.name.counter;
	const isTimed = areTimed(a.spans, b.spans);
	// Devices fill their counters up with zeros; "1" and "2" may be two of anything.
	if (!isTimed && Math.max(a.name.counterDigits, b.name.counterDigits) < 2) return false;
	return Math.abs(leap) <= (isTimed ? MAX_LEAP : MAX_UNTIMED_LEAP) || crossesReel(leap);
}

/** From one card to the next of the same camera: the reel counts on and the clips begin anew. */
function crossesReel(leap: number): boolean {
	return leap > 0 && leap < 20_000 && leap > 9_000;
}

/** A later number with an earlier date belongs to another clock. */
function goesBack(a: Traits, b: Traits): boolean {
	const [first, second] = counterOf(a) <= counterOf(b) ? [a, b] : [b, a];
	return first.spans.some((one) =>
		second.spans.some(
			(other) => other.kind === one.kind && one.kind !== 'timecode' && other.atSeconds < one.atSeconds - 2
		)
	);
}

function isBarred(a: Traits, b: Traits): boolean {
	const { file: one } = a;
	const { file: other } = b;
	if (one.device !== undefined && other.device !== undefined) return one.device !== other.device;
	if (a.isCamera !== b.isCamera) return true;
	if (a.serial && b.serial && a.serial !== b.serial) return true;
	if (a.maker && b.maker && a.maker !== b.maker) return true;
	// A name that a computer had to change was taken: by another device, or by a copy of the same file.
	if (a.folder === b.folder && a.name.copy !== b.name.copy && hasOneName(a, b)) return true;
	return !isSameRecording(a, b) && ranTogether(a.spans, b.spans);
}

function hasOneName(a: Traits, b: Traits): boolean {
	return a.name.series === b.name.series && a.name.counter === b.name.counter;
}

/** Files of one long recording may all carry its beginning's date. */
function isSameRecording(a: Traits, b: Traits): boolean {
	return (
		a.folder === b.folder &&
		a.name.series === b.name.series &&
		a.name.copy === b.name.copy &&
		a.format === b.format &&
		a.file.facts.creationTime === b.file.facts.creationTime &&
		Math.abs(counterOf(a) - counterOf(b)) <= 1
	);
}

function areBarred(a: Heap, b: Heap): boolean {
	return a.members.some((one) => b.members.some((other) => isBarred(one, other)));
}

function bondsBetween(heaps: readonly Heap[], mixed: ReadonlySet<string>): readonly Bond[] {
	const bonds: Bond[] = [];
	for (const [a, one] of heaps.entries())
		for (let b = a + 1; b < heaps.length; b++) {
			const bond = bondOf(one, heaps[b]!, mixed);
			if (bond) bonds.push({ ...bond, a, b });
		}
	return bonds.sort((x, y) => y.weight - x.weight);
}

/** Folders in which more than one device's files lie: there, lying together says nothing. */
function mixedFolders(heaps: readonly Heap[]): ReadonlySet<string> {
	const mixed = new Set<string>(['']);
	for (const [index, one] of heaps.entries())
		for (const other of heaps.slice(index + 1)) {
			const [x, y] = [one.members[0]!, other.members[0]!];
			if (x.deviceFolder !== y.deviceFolder || mixed.has(x.deviceFolder)) continue;
			const isMixed = x.isCamera !== y.isCamera || areParallel(x.name.series, y.name.series) || !lookAlike(x, y);
			if (isMixed || areBarred(one, other)) mixed.add(x.deviceFolder);
		}
	return mixed;
}

/** Whether names, format or maker are the same. */
function lookAlike(x: Traits, y: Traits): boolean {
	return x.name.series === y.name.series || x.format === y.format || (x.maker !== '' && x.maker === y.maker);
}

function bondOf(a: Heap, b: Heap, mixed: ReadonlySet<string>): Omit<Bond, 'a' | 'b'> | undefined {
	const [x, y] = [a.members[0]!, b.members[0]!];
	if (x.file.device !== undefined && x.file.device === y.file.device)
		return { weight: 100, reason: 'It was decided so before.' };
	if (x.isCamera !== y.isCamera) return undefined;
	if (x.serial && x.serial === y.serial)
		return { weight: 90, reason: `The files carry one serial number, ${x.serial}.` };
	const isCounted = areOneCount(a, b);
	const isOneSeries = x.name.series === y.name.series;
	if (x.folder === y.folder && isOneSeries && x.name.copy === y.name.copy && isCounted)
		return { weight: 80, reason: 'The names go on counting where the format changes.' };
	if (x.deviceFolder === y.deviceFolder && !mixed.has(x.deviceFolder))
		return { weight: 70, reason: `The files lie in one folder, “${x.deviceFolder}”.` };
	const folderName = lastOf(x.deviceFolder);
	if (
		folderName !== '' &&
		folderName === lastOf(y.deviceFolder) &&
		x.deviceFolder !== y.deviceFolder &&
		lookAlike(x, y)
	)
		return { weight: 50, reason: `Their folders have one name, “${folderName}”.` };
	if (!isOneSeries || !isCounted) return undefined;
	if (x.folder !== y.folder && x.format === y.format && x.dayless !== '' && x.dayless === y.dayless)
		return { weight: 45, reason: 'The names go on counting from day to day.' };
	if (!areTimed(x.spans, y.spans)) return undefined;
	if (areReelsOfOne(x.folder, y.folder) && x.format === y.format)
		return { weight: 40, reason: 'The names go on counting from reel to reel.' };
	if (x.folder === y.folder && x.maker !== '' && x.maker === y.maker)
		return { weight: 30, reason: `The files are from one kind of device, ${x.maker}, and none ran while another did.` };
	return undefined;
}

/** Whether the counters of two heaps stand near each other, and none is there twice. */
function areOneCount(a: Heap, b: Heap): boolean {
	const isDated = [a, b].every(({ members }) => members[0]!.name.clockSeconds !== undefined);
	if (isDated) return true;
	const [one, other] = [a, b].map(({ members }) => members.map(({ name }) => name.counter));
	if (one!.includes(undefined) || other!.includes(undefined)) return false;
	const leaps = one!.flatMap((x) => other!.map((y) => y! - x!));
	if (leaps.includes(0)) return false;
	return leaps.some((leap) => Math.abs(leap) <= MAX_UNTIMED_LEAP || crossesReel(Math.abs(leap)));
}

function lastOf(folder: string): string {
	return folder.slice(folder.lastIndexOf('/') + 1).toLowerCase();
}

/** A device is called as its folder, or else as what made it, or as its files. */
function namesOf(heaps: readonly Heap[]): readonly string[] {
	const folders = heaps.map(({ members }) => commonFolder(members));
	const plain = heaps.map(({ members }, index) => {
		const own = folders[index]!;
		const isAlone = own !== '' && folders.filter((folder) => folder === own).length === 1;
		return inWords(isAlone ? lastOfPath(own) : (members[0]!.file.facts.model ?? seriesWords(members[0]!)));
	});
	const used = new Map<string, number>();
	return plain.map((name) => {
		const isTwice = plain.filter((other) => other === name).length > 1;
		const count = (used.get(name) ?? 0) + 1;
		used.set(name, count);
		return isTwice ? `${name} ${count}` : name;
	});
}

function commonFolder(members: readonly Traits[]): string {
	const first = members[0]!.deviceFolder;
	return members.every((one) => one.deviceFolder === first) ? first : '';
}

function lastOfPath(folder: string): string {
	return folder.slice(folder.lastIndexOf('/') + 1);
}

/** What devices put before their counters, and what names none. */
const PLAIN_WORDS = /^(?:clip|movie|video|audio|record(?:ing)?|take|memo|new memo|untitled)$/;

function seriesWords({ name, isCamera }: Traits): string {
	const letters = name.series
		.replace(/\*_?c#$/, '')
		.replace(/[\s_.-]*(?:tr|trk|track|ch|channel|in|input|iso|mic)?[\s_.-]*#$/, '')
		.replace(/[#*\d\s_.-]+/g, ' ')
		.trim();
	if (letters.length > 3 && !PLAIN_WORDS.test(letters)) return letters;
	return `${isCamera ? 'Camera' : 'Recorder'}${letters ? ` ${letters.toUpperCase()}` : ''}`;
}

/** "camera-a" is written "Camera A"; the editor gives the real name. */
function inWords(text: string): string {
	const words = (text.replace(/[-_]+/g, ' ').trim() || text).replace(/(?<= )\p{L}$/u, (letter) => letter.toUpperCase());
	return (words.charAt(0).toUpperCase() + words.slice(1)).slice(0, 90);
}

function describe(heap: Heap, index: number, heaps: readonly Heap[], names: readonly string[]): SortedDevice {
	const { members } = heap;
	const device = members.find((one) => one.file.device !== undefined)?.file.device;
	return {
		...(device === undefined ? {} : { device }),
		name: names[index]!,
		kind: members[0]!.isCamera ? 'camera' : 'recorder',
		reasons: [...ownReasons(heap), ...apartReasons(heap, heaps, names)],
		fileIds: [...members].sort((x, y) => compare(x.file.path, y.file.path)).map((one) => one.file.id)
	};
}

function ownReasons({ members, reasons }: Heap): readonly string[] {
	if (reasons.size > 0) return [...reasons];
	const [first, last] = [members[0]!, members.at(-1)!].map((one) => lastOfPath(one.file.path)) as [string, string];
	return [
		members.length > 1
			? `The names count on from ${first} to ${last}, in one format.`
			: 'It is the only file of its kind: nothing ties it to another device.'
	];
}

/** Devices it could be taken for, and why it is not. */
function apartReasons(heap: Heap, heaps: readonly Heap[], names: readonly string[]): readonly string[] {
	const own = heap.members[0]!;
	const alike = heaps.flatMap((other, index) => {
		const theirs = other.members[0]!;
		if (other === heap || own.isCamera !== theirs.isCamera || !lookAlike(own, theirs)) return [];
		return heap.members.some((one) => other.members.some((two) => ranTogether(one.spans, two.spans)))
			? [names[index]!]
			: [];
	});
	return alike.length > 0
		? [`It ran while ${alike.slice(0, 3).join(', ')} did: no device records two clips at once.`]
		: [];
}
