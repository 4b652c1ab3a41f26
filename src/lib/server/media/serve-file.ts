import { type FileHandle, open } from 'node:fs/promises';
import { Readable } from 'node:stream';
import rangeParser from 'range-parser';
import { AccessError } from '../access/allowed-folders';

/** The library's words for a range that lies outside, and for one that is none. */
const UNSATISFIABLE = -1;
const MALFORMED = -2;

const UNCHANGING = 'private, max-age=31536000, immutable';

/**
 * A file that never changes under its name, or the range of it that is asked for, streamed.
 * @param downloadName makes the browser store it under this name
 * @throws AccessError it is not there
 */
export async function serveFile(
	path: string,
	request: Request,
	type: string,
	{ downloadName }: { readonly downloadName?: string } = {}
): Promise<Response> {
	const file = await open(path).catch(() => undefined);
	if (!file) throw new AccessError('missing', 'That file has not been made yet.');
	return serveOpened(file, request, type, {
		cacheControl: UNCHANGING,
		...(downloadName ? { downloadName } : {})
	});
}

/** As `serveFile`, of a file that is open; it is closed when its last byte is sent, or nobody takes it any more. */
export async function serveOpened(
	file: FileHandle,
	request: Request,
	type: string,
	{ cacheControl, downloadName }: { readonly cacheControl: string; readonly downloadName?: string }
): Promise<Response> {
	const stats = await file.stat();
	if (!stats.isFile()) {
		await file.close();
		throw new AccessError('missing', 'That file has not been made yet.');
	}
	const headers = new Headers({
		'content-type': type,
		'accept-ranges': 'bytes',
		'cache-control': cacheControl,
		'cross-origin-resource-policy': 'same-origin'
	});
	if (downloadName)
		headers.set('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(downloadName)}`);
	const range = parseRange(request.headers.get('range'), stats.size);
	if (range === 'unsatisfiable') {
		await file.close();
		return new Response(null, { status: 416, headers: { 'content-range': `bytes */${stats.size}` } });
	}
	const { from, to } = range ?? { from: 0, to: stats.size - 1 };
	headers.set('content-length', `${Math.max(0, to - from + 1)}`);
	if (range) headers.set('content-range', `bytes ${from}-${to}/${stats.size}`);
	const status = range ? 206 : 200;
	if (request.method === 'HEAD' || stats.size === 0) {
		await file.close();
		return new Response(null, { status, headers });
	}
	const stream = Readable.toWeb(file.createReadStream({ start: from, end: to })) as ReadableStream<Uint8Array>;
	return new Response(stream, { status, headers });
}

/** One range of bytes, as RFC 9110 section 14 writes it; several at once, and other units, are answered with the whole file. */
export function parseRange(
	header: string | null,
	size: number
): { readonly from: number; readonly to: number } | 'unsatisfiable' | undefined {
	if (header === null) return undefined;
	// A suffix longer than the file is the whole file (RFC 9110, 14.1.2); the library takes it for unsatisfiable.
	const asked = header.replace(/^bytes=-(\d+)$/, (suffix, length) =>
		Number(length) > size && size > 0 ? 'bytes=0-' : suffix
	);
	const ranges = rangeParser(size, asked);
	if (ranges === UNSATISFIABLE) return header.startsWith('bytes=') ? 'unsatisfiable' : undefined;
	if (ranges === MALFORMED || ranges.type !== 'bytes' || ranges.length !== 1) return undefined;
	return { from: ranges[0]!.start, to: ranges[0]!.end };
}
