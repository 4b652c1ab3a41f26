import { Readable } from 'node:stream';
import { createGunzip } from 'node:zlib';
import { ShootError } from './shoot-error';

/** A shoot of 2 000 clips with a long history unpacks to some tens of megabytes. */
const MAX_BYTES = 2 ** 27;
/** Rows, lists and what is in them; each costs memory whatever it holds. */
const MAX_CONTAINERS = 3_000_000;
/** Tables, rows, a row's JSON, its parts: ten levels and some. */
const MAX_DEPTH = 24;

/**
 * Unpacks compressed JSON. What it grows to is bounded while it is unpacked, before anything is made of it.
 * @throws ShootError it is too large, or nested too deeply; Error it is damaged
 */
export async function unpackJson(bytes: Uint8Array): Promise<unknown> {
	const blocks: Buffer[] = [];
	const bounds = jsonBounds();
	let size = 0;
	for await (const block of Readable.from([bytes]).pipe(createGunzip()) as AsyncIterable<Buffer>) {
		size += block.length;
		if (size > MAX_BYTES || !bounds.takes(block))
			throw new ShootError(
				'not-an-archive',
				'This archive unpacks to more than a shoot can hold. Nothing was imported.'
			);
		blocks.push(block);
	}
	return JSON.parse(Buffer.concat(blocks, size).toString('utf8'));
}

const QUOTE = 0x22;
const BACKSLASH = 0x5c;
const OPENING = [0x5b, 0x7b];
const CLOSING = [0x5d, 0x7d];

/** Counts what a JSON text opens, block by block; strings are passed over. */
function jsonBounds(): { takes(block: Uint8Array): boolean } {
	let [depth, containers] = [0, 0];
	let [isString, isEscaped] = [false, false];
	return {
		takes(block) {
			for (let index = 0; index < block.length; index++) {
				const byte = block[index]!;
				if (isString) {
					if (isEscaped) isEscaped = false;
					else if (byte === BACKSLASH) isEscaped = true;
					else if (byte === QUOTE) isString = false;
				} else if (byte === QUOTE) isString = true;
				else if (byte === OPENING[0] || byte === OPENING[1]) {
					if (++depth > MAX_DEPTH || ++containers > MAX_CONTAINERS) return false;
				} else if (byte === CLOSING[0] || byte === CLOSING[1]) depth--;
			}
			return true;
		}
	};
}
