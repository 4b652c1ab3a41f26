import { FileStore } from '@tus/file-store';
import { Server, type Upload } from '@tus/server';
import { mkdir, readdir, readFile, rm, stat, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import type { UnfinishedUpload } from '../../contract/views';
import { landFile, readSoon } from './land-file';
import { safePath } from './safe-path';
import { type UploadContext, uploadFolder } from './upload-folder';

/** What the page tells of a file. */
const Metadata = z.object({
	shootId: z.uuid(),
	relativePath: z.string().min(1).max(4096),
	lastModified: z.coerce.number().int().min(0).max(8.64e15).optional()
});

/** What the protocol's store notes of an upload beside its bytes. */
const Noted = z.object({ metadata: Metadata });

export interface UploadServer {
	/** Answers a request of the tus protocol (tus.io, version 1.0.0). */
	handle(request: Request): Promise<Response>;
	unfinished(shootId: string): Promise<readonly UnfinishedUpload[]>;
	/** Whether more of a shoot's files come in at this moment. */
	isArriving(shootId: string): Promise<boolean>;
	/** Puts in place what was whole when the server was cut off. */
	landComplete(): Promise<void>;
	/** Removes what came of a shoot's unfinished uploads. */
	dropUnfinished(shootId: string): Promise<void>;
}

export const UPLOAD_ROUTE = '/api/uploads';
/** Left free whatever is uploaded: the database and the caches need room. */
const KEPT_FREE_BYTES = 2 ** 30;
const MAX_FILE_BYTES = 2 ** 41;
/** An upload that stood still for so long is paused, or given up. */
const STANDS_STILL_MS = 5000;
const KEPT_UNFINISHED_MS = 14 * 86_400_000;

/** Files dropped into the page: they come in pieces, outlive a restart, and land whole or not at all. */
export async function openUploadServer(runtime: UploadContext): Promise<UploadServer> {
	const parts = join(runtime.settings.dataFolder, 'uploads.part');
	await mkdir(parts, { recursive: true });
	const store = new FileStore({ directory: parts, expirationPeriodInMilliseconds: KEPT_UNFINISHED_MS });
	await store.deleteExpired().catch((error: unknown) => runtime.log.warn({ err: error }, 'old uploads'));
	const server = new Server({
		path: UPLOAD_ROUTE,
		datastore: store,
		relativeLocation: true,
		allowedOrigins: () => false,
		maxSize: MAX_FILE_BYTES,
		onUploadCreate: async (_request, upload) => {
			await admit(runtime, store, parts, upload);
			return {};
		},
		onUploadFinish: async (_request, upload) => {
			await land(runtime, parts, upload);
			dropBeginningsSoon(runtime, store, parts, arrivedFile(upload));
			return {};
		}
	});

	async function list(shootId: string): Promise<readonly UnfinishedUpload[]> {
		const uploads = await unfinishedIn(store, parts);
		return uploads.filter((one) => one.shootId === shootId);
	}

	return {
		handle: (request) => server.handleWeb(request),
		unfinished: list,
		async isArriving(shootId) {
			const times = (await list(shootId)).map(({ id }) =>
				stat(join(parts, id)).then(
					({ mtimeMs }) => mtimeMs,
					() => 0
				)
			);
			return (await Promise.all(times)).some((time) => Date.now() - time < STANDS_STILL_MS);
		},
		async landComplete() {
			for (const { id, sizeBytes, doneBytes } of await unfinishedIn(store, parts))
				if (doneBytes === sizeBytes && sizeBytes > 0) await land(runtime, parts, await store.getUpload(id));
			await finishLandings(runtime, parts);
			for (const one of await unfinishedIn(store, parts))
				if (await hasArrived(runtime, one)) dropBeginningsSoon(runtime, store, parts, one);
		},
		async dropUnfinished(shootId) {
			for (const { id } of await list(shootId)) await store.remove(id);
		}
	};
}

interface UploadedFile {
	readonly shootId: string;
	readonly relativePath: string;
	readonly sizeBytes: number;
}

function arrivedFile({ metadata, size }: Upload): UploadedFile {
	const { shootId, relativePath } = Metadata.parse(metadata);
	return { shootId, relativePath, sizeBytes: size ?? 0 };
}

/** Whether a file of that name and size lies in its place already. */
async function hasArrived({ settings }: UploadContext, file: UploadedFile): Promise<boolean> {
	const path = join(uploadFolder(settings.dataFolder, file.shootId), safePath(file.relativePath));
	return stat(path).then(
		(entry) => entry.isFile() && entry.size === file.sizeBytes,
		() => false
	);
}

/**
 * Other beginnings of a file that has arrived: of attempts whose answer was lost. One that goes on may be another file of that
 * name and size, and lands by itself.
 */
function dropBeginningsSoon({ log }: UploadContext, store: FileStore, parts: string, file: UploadedFile): void {
	const alike = async () =>
		(await unfinishedIn(store, parts)).filter(
			(one) =>
				one.shootId === file.shootId && one.relativePath === file.relativePath && one.sizeBytes === file.sizeBytes
		);
	const drop = async (before: ReadonlyMap<string, number>) => {
		for (const { id, doneBytes } of await alike()) if (before.get(id) === doneBytes) await store.remove(id);
	};
	void alike()
		.then((some) => {
			const before = new Map(some.map(({ id, doneBytes }) => [id, doneBytes]));
			if (before.size === 0) return;
			setTimeout(
				() => void drop(before).catch((error: unknown) => log.warn({ err: error }, 'beginnings of uploads')),
				STANDS_STILL_MS
			).unref();
		})
		.catch((error: unknown) => log.warn({ err: error }, 'beginnings of uploads'));
}

async function land(runtime: UploadContext, parts: string, upload: Upload): Promise<void> {
	const { shootId, relativePath, lastModified } = Metadata.parse(upload.metadata);
	await landFile(runtime, {
		shootId,
		relativePath: safePath(relativePath),
		part: join(parts, upload.id),
		...(lastModified === undefined ? {} : { lastModified })
	});
	await rm(join(parts, `${upload.id}.json`), { force: true });
}

/**
 * Files that were put in their place just before the server was killed: what was noted of them is still there. Of one that had just
 * begun nothing may be noted yet: nobody can go on with it.
 */
async function finishLandings(runtime: UploadContext, parts: string): Promise<void> {
	const names = new Set(await readdir(parts));
	for (const name of names) {
		if (!name.endsWith('.json') && !names.has(`${name}.json`)) await rm(join(parts, name), { force: true });
		if (!name.endsWith('.json') || names.has(name.slice(0, -'.json'.length))) continue;
		const path = join(parts, name);
		const noted = Noted.safeParse(parsed(await readFile(path, 'utf8').catch(() => '')));
		if (noted.success) await readSoon(runtime, noted.data.metadata.shootId).catch(() => undefined);
		await rm(path, { force: true });
	}
}

function parsed(text: string): unknown {
	try {
		return JSON.parse(text);
	} catch {
		// Cut off in the midst of writing.
		return undefined;
	}
}

/** Whether an upload may begin. @throws what the protocol's server answers with */
async function admit(runtime: UploadContext, store: FileStore, parts: string, upload: Upload): Promise<void> {
	const metadata = Metadata.safeParse(upload.metadata);
	if (!metadata.success || upload.size === undefined)
		throw refusal(400, 'An upload must say its size, its path and its shoot.');
	if (upload.size === 0) throw refusal(400, 'The file is empty.');
	const [shoot] = await runtime.database.query('select 1 from shoot where id = $1 and deleted_at is null', [
		metadata.data.shootId
	]);
	if (!shoot) throw refusal(404, 'There is no such shoot.');
	const { bavail, bsize } = await statfs(parts);
	const promised = (await unfinishedSizes(store, parts)) + upload.size;
	if (promised + KEPT_FREE_BYTES > bavail * bsize)
		throw refusal(507, 'There is not enough room on the disk. Make room, then drop the file again.');
}

function refusal(status: number, body: string): { readonly status_code: number; readonly body: string } {
	return { status_code: status, body };
}

/** Bytes that uploads which have begun will still need. */
async function unfinishedSizes(store: FileStore, parts: string): Promise<number> {
	const uploads = await unfinishedIn(store, parts);
	return uploads.reduce((sum, one) => sum + one.sizeBytes - one.doneBytes, 0);
}

async function unfinishedIn(
	store: FileStore,
	parts: string
): Promise<readonly (UnfinishedUpload & { readonly shootId: string })[]> {
	const out: (UnfinishedUpload & { shootId: string })[] = [];
	for (const name of await readdir(parts)) {
		if (name.endsWith('.json')) continue;
		const upload = await store.getUpload(name).catch(() => undefined);
		const metadata = Metadata.safeParse(upload?.metadata);
		if (!upload || !metadata.success) continue;
		const { size } = await stat(join(parts, name)).catch(() => ({ size: 0 }));
		const { shootId, relativePath } = metadata.data;
		out.push({ id: name, shootId, relativePath, sizeBytes: upload.size ?? 0, doneBytes: size });
	}
	return out;
}
