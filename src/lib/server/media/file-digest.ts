import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { openOriginal } from './original-file';

/** SHA-256 of a whole file that we have made, in hexadecimal; it is streamed. */
export async function digestOf(path: string): Promise<string> {
	return digestOfStream(createReadStream(path));
}

/** SHA-256 of a whole recording. @throws MediaError it leads elsewhere than when it was found */
export async function digestOfOriginal(path: string): Promise<string> {
	return digestOfStream((await openOriginal(path)).createReadStream());
}

async function digestOfStream(stream: Readable): Promise<string> {
	const hash = createHash('sha256');
	await pipeline(stream, hash);
	return hash.digest('hex');
}
