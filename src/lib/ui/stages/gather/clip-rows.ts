import type { Clip, NewFile } from '../../../core/shoot/clip';
import type { Device } from '../../../core/shoot/device';
import { comparePaths } from '../../../core/gather/compare-paths';

/** Which clips the table shows. */
export interface ClipFilter {
	/** Part of a name, a file's path or a note. */
	readonly text: string;
	readonly deviceId: string;
	readonly scene: string;
	/** Name of a channel. */
	readonly person: string;
	readonly circled: boolean;
	readonly strays: boolean;
}

export const NO_FILTER: ClipFilter = { text: '', deviceId: '', scene: '', person: '', circled: false, strays: false };

export type ClipOrder = 'name' | 'length' | 'clock' | 'scene' | 'size';

export type ClipRow =
	| { readonly kind: 'device'; readonly device: Device; readonly shown: number; readonly clips: readonly Clip[] }
	| { readonly kind: 'clip'; readonly clip: Clip };

export type NewFileRow =
	| { readonly kind: 'new files'; readonly count: number; readonly unread: number }
	| { readonly kind: 'new file'; readonly file: NewFile };

/** Rows of files that are in no clip yet, below a row that says so; filters are for clips. */
export function newFileRows(files: readonly NewFile[], filter: ClipFilter): readonly NewFileRow[] {
	if (files.length === 0 || filter !== NO_FILTER) return [];
	const sorted = [...files].sort((a, b) => comparePaths(a.relativePath, b.relativePath));
	return [
		{ kind: 'new files', count: files.length, unread: files.filter((file) => !file.part).length },
		...sorted.map((file): NewFileRow => ({ kind: 'new file', file }))
	];
}

/** Rows of the clip table: each device that has clips to show, and these below it. */
export function clipRows(
	devices: readonly Device[],
	clips: readonly Clip[],
	filter: ClipFilter,
	order: ClipOrder,
	descending: boolean
): readonly ClipRow[] {
	const ofDevice = new Map<string, Clip[]>();
	for (const clip of clips) {
		const own = ofDevice.get(clip.deviceId);
		if (own) own.push(clip);
		else ofDevice.set(clip.deviceId, [clip]);
	}
	const isFiltered = Object.entries(filter).some(([name, value]) => value !== NO_FILTER[name as keyof ClipFilter]);
	return devices.flatMap((device): ClipRow[] => {
		const own = ofDevice.get(device.id) ?? [];
		const shown = own.filter((clip) => passes(clip, device, filter));
		if (isFiltered && shown.length === 0) return [];
		const sorted = [...shown].sort((a, b) => (descending ? -1 : 1) * (compare(a, b, order) || byFile(a, b)));
		return [
			{ kind: 'device', device, shown: shown.length, clips: own },
			...sorted.map((clip): ClipRow => ({ kind: 'clip', clip }))
		];
	});
}

function passes(clip: Clip, device: Device, filter: ClipFilter): boolean {
	if (filter.deviceId && filter.deviceId !== device.id) return false;
	if (filter.scene && filter.scene !== clip.scene) return false;
	if (filter.person && !device.channelNames.includes(filter.person)) return false;
	if (filter.circled && !clip.circled) return false;
	if (filter.strays && clip.stray === undefined) return false;
	const text = filter.text.trim().toLowerCase();
	if (text === '') return true;
	return [clip.name, clip.note, ...clip.parts.map((part) => part.relativePath)].some((one) =>
		one.toLowerCase().includes(text)
	);
}

function compare(a: Clip, b: Clip, order: ClipOrder): number {
	switch (order) {
		case 'name':
			return comparePaths(a.name, b.name);
		case 'length':
			return a.durationFlicks - b.durationFlicks;
		case 'clock':
			return (a.clockSeconds ?? Infinity) - (b.clockSeconds ?? Infinity) || 0;
		case 'scene':
			return comparePaths(a.scene, b.scene) || comparePaths(a.take, b.take);
		case 'size':
			return sizeOf(a) - sizeOf(b);
	}
}

function byFile(a: Clip, b: Clip): number {
	return comparePaths(a.parts[0]?.relativePath ?? '', b.parts[0]?.relativePath ?? '');
}

export function sizeOf({ parts }: Clip): number {
	return parts.reduce((sum, part) => sum + part.sizeBytes, 0);
}
