import { XMLParser } from 'fast-xml-parser';
import { open } from 'node:fs/promises';

export interface WaveNotes {
	readonly channelNames: readonly string[];
	readonly scene?: string;
	readonly take?: string;
}

const MOST_IXML_BYTES = 1 << 20;

/**
 * Reads the iXML notes of a RIFF or RF64 wave file, chunk by chunk; the sound itself is stepped over.
 * @returns nothing when the file has none
 */
export async function readWaveNotes(path: string): Promise<WaveNotes | undefined> {
	const file = await open(path, 'r');
	try {
		const head = Buffer.alloc(12);
		await file.read(head, 0, 12, 0);
		if (!['RIFF', 'RF64'].includes(head.toString('latin1', 0, 4)) || head.toString('latin1', 8, 12) !== 'WAVE')
			return undefined;
		const { size: fileBytes } = await file.stat();
		let at = 12;
		let longDataBytes = 0;
		for (let count = 0; at + 8 <= fileBytes && count < 1000; count++) {
			await file.read(head, 0, 8, at);
			const name = head.toString('latin1', 0, 4);
			let bytes = head.readUInt32LE(4);
			if (name === 'ds64') {
				const sizes = Buffer.alloc(16);
				await file.read(sizes, 0, 16, at + 8);
				longDataBytes = Number(sizes.readBigUInt64LE(8));
			}
			if (name === 'data' && bytes === 0xffffffff) bytes = longDataBytes;
			if (name === 'iXML' && bytes <= MOST_IXML_BYTES) {
				const body = Buffer.alloc(bytes);
				await file.read(body, 0, bytes, at + 8);
				return parseIXml(body.toString('utf8').replace(/\0+$/, ''));
			}
			at += 8 + bytes + (bytes % 2);
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
	const scene = root['SCENE'];
	const take = root['TAKE'];
	return {
		channelNames: tracks.map((track) => track.name),
		...(typeof scene === 'string' && scene ? { scene } : {}),
		...(typeof take === 'string' && take ? { take } : {})
	};
}
