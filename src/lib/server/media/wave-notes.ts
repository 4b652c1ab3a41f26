import { XMLParser } from 'fast-xml-parser';
import type { FileHandle } from 'node:fs/promises';
import type { MediaFacts } from '../../core/gather/media-facts';
import { parseRational } from '../../core/time/rational';
import { openOriginal } from './original-file';

type TakeNotes = Pick<
	MediaFacts,
	'scene' | 'take' | 'circled' | 'note' | 'tape' | 'takeId' | 'timecodeRate' | 'dropFrame'
>;

export interface WaveNotes extends TakeNotes {
	readonly channelNames: readonly string[];
}

const MAX_IXML_BYTES = 1 << 20;

/** How the sound lies in a wave file. */
export interface WaveLayout {
	/** 1 for whole numbers, 3 for floats. */
	readonly format: number;
	readonly channels: number;
	readonly sampleRate: number;
	readonly bits: number;
	readonly dataAt: number;
	readonly dataBytes: number;
}

interface Chunk {
	readonly name: string;
	readonly at: number;
	readonly bytes: number;
}

const MAX_CHUNKS = 1000;
/** WAVE_FORMAT_EXTENSIBLE: the real format stands in the first two bytes of an identifier behind. */
const EXTENSIBLE = 0xfffe;

/** Whether the samples of a wave file are plain numbers of two to four bytes. */
export function isPlain({ format, bits }: WaveLayout): boolean {
	return (format === 1 && [16, 24, 32].includes(bits)) || (format === 3 && bits === 32);
}

/** Walks through the chunks of a RIFF or RF64 wave file; the sound itself is stepped over. */
async function* chunksOf(file: FileHandle): AsyncGenerator<Chunk> {
	const head = Buffer.alloc(12);
	await file.read(head, 0, 12, 0);
	if (!['RIFF', 'RF64'].includes(head.toString('latin1', 0, 4)) || head.toString('latin1', 8, 12) !== 'WAVE') return;
	const { size: fileBytes } = await file.stat();
	let at = 12;
	let longDataBytes = 0;
	for (let count = 0; at + 8 <= fileBytes && count < MAX_CHUNKS; count++) {
		await file.read(head, 0, 8, at);
		const name = head.toString('latin1', 0, 4);
		let bytes = head.readUInt32LE(4);
		if (name === 'ds64') {
			const sizes = Buffer.alloc(16);
			await file.read(sizes, 0, 16, at + 8);
			longDataBytes = Number(sizes.readBigUInt64LE(8));
		}
		if (name === 'data' && bytes === 0xffffffff) bytes = longDataBytes;
		yield { name, at: at + 8, bytes: Math.min(bytes, fileBytes - at - 8) };
		at += 8 + bytes + (bytes % 2);
	}
}

/** How the sound lies in a wave file. @returns nothing when it is none, or has no sound */
export async function readWaveLayout(path: string): Promise<WaveLayout | undefined> {
	const file = await openOriginal(path);
	try {
		const format = Buffer.alloc(26);
		let known = false;
		for await (const { name, at, bytes } of chunksOf(file)) {
			if (name === 'fmt ' && bytes >= 16) {
				await file.read(format, 0, Math.min(26, bytes), at);
				known = true;
			}
			if (name !== 'data' || !known) continue;
			const kind = format.readUInt16LE(0);
			return {
				format: kind === EXTENSIBLE ? format.readUInt16LE(24) : kind,
				channels: format.readUInt16LE(2),
				sampleRate: format.readUInt32LE(4),
				bits: format.readUInt16LE(14),
				dataAt: at,
				dataBytes: bytes
			};
		}
		return undefined;
	} finally {
		await file.close();
	}
}

/**
 * Reads the iXML notes of a RIFF or RF64 wave file.
 * @returns nothing when the file has none
 */
export async function readWaveNotes(path: string): Promise<WaveNotes | undefined> {
	const file = await openOriginal(path);
	try {
		for await (const { name, at, bytes } of chunksOf(file)) {
			if (name !== 'iXML' || bytes > MAX_IXML_BYTES) continue;
			const body = Buffer.alloc(bytes);
			await file.read(body, 0, bytes, at);
			return parseIXml(body.toString('utf8').replace(/\0+$/, ''));
		}
		return undefined;
	} finally {
		await file.close();
	}
}

/** iXML as writers write it (specification from memory; exiftool reads the same fields). */
export function parseIXml(text: string): WaveNotes | undefined {
	const parser = new XMLParser({ parseTagValue: false, htmlEntities: true, isArray: (name) => name === 'TRACK' });
	let root: Record<string, unknown> | undefined;
	try {
		root = (parser.parse(text) as { BWFXML?: Record<string, unknown> }).BWFXML;
	} catch {
		// Notes that cannot be read are as good as none; the sound is not touched by it.
		return undefined;
	}
	if (!root) return undefined;
	const tracks = ((root['TRACK_LIST'] as { TRACK?: Record<string, string>[] } | undefined)?.TRACK ?? [])
		.map((track) => ({
			place: Number(track['INTERLEAVE_INDEX'] ?? track['CHANNEL_INDEX']),
			name: `${track['NAME'] ?? ''}`
		}))
		.sort((a, b) => a.place - b.place);
	const textOf = (value: unknown) =>
		typeof value === 'string' && value.trim() ? value.trim().slice(0, 2000) : undefined;
	const inside = (name: string) => (root[name] ?? {}) as Record<string, unknown>;
	const [scene, take, note, tape] = ['SCENE', 'TAKE', 'NOTE', 'TAPE'].map((name) => textOf(root[name]));
	const takeId = textOf(inside('FILE_SET')['FAMILY_UID']);
	const isOneOfSeveral = Number(textOf(inside('FILE_SET')['TOTAL_FILES']) ?? 1) > 1;
	const timecodeRate = parseRational(textOf(inside('SPEED')['TIMECODE_RATE']));
	return {
		channelNames: tracks.map((track) => track.name),
		...(scene ? { scene } : {}),
		...(take ? { take } : {}),
		...(textOf(root['CIRCLED'])?.toUpperCase() === 'TRUE' ? { circled: true } : {}),
		...(note ? { note } : {}),
		...(tape ? { tape } : {}),
		...(takeId && isOneOfSeveral ? { takeId } : {}),
		...(timecodeRate ? { timecodeRate, dropFrame: textOf(inside('SPEED')['TIMECODE_FLAG']) === 'DF' } : {})
	};
}
