import type { PieceLines } from '../../core/limits/pieces';
import { createHash, randomUUID } from 'node:crypto';
import { mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { openOriginal } from './original-file';

/** Grows when a recipe changes: what was made by an older one is made anew. */
const RECIPE = 'r1';
const DIGEST_BYTES = 65_536;

/** What is made of a file; pieces of its small picture by number and lines. */
export type CachedKind =
	| 'analysis.s16'
	| 'listening.s16'
	| 'listening.s32'
	| 'peaks.s16'
	| 'readings.u8'
	| 'sound.json'
	| `piece-${number}-${PieceLines}.mp4`;

/** Derived media, kept by the file's identity; losing it costs time only. */
export interface MediaCache {
	path(identity: string, kind: CachedKind): string;
	has(identity: string, kind: CachedKind): Promise<boolean>;
	/**
	 * Makes something under a passing name and puts it in place when it is whole.
	 * @param make gets the passing path
	 * @returns what it gave
	 */
	put<Made>(identity: string, kind: CachedKind, make: (path: string) => Promise<Made>): Promise<Made>;
	/** Removes what writers that are no more have left behind, and what older versions made. To be called before anybody writes. */
	sweep(): Promise<void>;
}

export function openMediaCache(folder: string): MediaCache {
	const path = (identity: string, kind: CachedKind) => {
		if (!/^[0-9a-f]{32}$/.test(identity)) throw new RangeError('Not an identity of a file.');
		return join(folder, identity.slice(0, 2), `${identity}.${RECIPE}.${kind}`);
	};
	return {
		path,
		has: (identity, kind) =>
			stat(path(identity, kind)).then(
				() => true,
				() => false
			),
		async put(identity, kind, make) {
			const target = path(identity, kind);
			await mkdir(join(folder, identity.slice(0, 2)), { recursive: true });
			const passing = target.replace(/(\.\w+)$/, `.part-${process.pid}-${randomUUID().slice(0, 8)}$1`);
			try {
				const made = await make(passing);
				await rename(passing, target);
				return made;
			} finally {
				await rm(passing, { force: true });
			}
		},
		async sweep() {
			const names = await readdir(folder, { recursive: true }).catch(() => []);
			const left = names.filter((name) => /\.part-[^/]*$|\.(growing|proxy)\.mp4$/.test(name));
			for (const name of left) await rm(join(folder, name), { force: true });
		}
	};
}

export interface FileIdentity {
	/** Key of what is made of it. */
	readonly identity: string;
	/** Tells the content, whenever it was copied. */
	readonly digest: string;
	readonly sizeBytes: number;
	readonly modifiedMs: number;
}

/**
 * What tells a file from any other, wherever it lies and whatever it is called: size and digest of its first and last
 * 64 KiB, and for the identity its time of change.
 */
export async function identify(path: string): Promise<FileIdentity> {
	const file = await openOriginal(path);
	try {
		const { size, mtimeMs } = await file.stat();
		const hash = createHash('sha256').update(`${size}\0`);
		const block = Buffer.alloc(DIGEST_BYTES);
		for (const at of size > DIGEST_BYTES ? [0, size - DIGEST_BYTES] : [0]) {
			const { bytesRead } = await file.read(block, 0, DIGEST_BYTES, at);
			hash.update(block.subarray(0, bytesRead));
		}
		const digest = hash.digest('hex').slice(0, 32);
		const modifiedMs = Math.floor(mtimeMs);
		const identity = createHash('sha256').update(`${digest}\0${modifiedMs}`).digest('hex').slice(0, 32);
		return { identity, digest, sizeBytes: size, modifiedMs };
	} finally {
		await file.close();
	}
}
