import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import rangeParser from 'range-parser';
import { AccessError } from '../access/allowed-folders';

/** The library's words for a range that lies outside, and for one that is none. */
const UNSATISFIABLE = -1;
const MALFORMED = -2;

/**
 * A file, or the range of it that is asked for, streamed.
 * @param isWhole it never changes under its name; otherwise it is read anew each time
 * @param downloadName makes the browser store it under this name
 * @throws AccessError it is not there
 */
export async function serveFile(
	path: string,
	request: Request,
	type: string,
	{ downloadName, isWhole = true }: { readonly downloadName?: string; readonly isWhole?: boolean } = {}
): Promise<Response> {
	const file = await stat(path).catch(() => undefined);
	if (!file?.isFile()) throw new AccessError('missing', 'That file has not been made yet.');
	const headers = new Headers({
		'content-type': type,
		'accept-ranges': 'bytes',
		'cache-control': isWhole ? 'private, max-age=31536000, immutable' : 'no-store',
		'cross-origin-resource-policy': 'same-origin'
	});
	if (downloadName)
		headers.set('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(downloadName)}`);
	const range = parseRange(request.headers.get('range'), file.size);
	if (range === 'unsatisfiable')
		return new Response(null, { status: 416, headers: { 'content-range': `bytes */${file.size}` } });
	const { from, to } = range ?? { from: 0, to: file.size - 1 };
	headers.set('content-length', `${Math.max(0, to - from + 1)}`);
	if (range) headers.set('content-range', `bytes ${from}-${to}/${file.size}`);
	if (request.method === 'HEAD' || file.size === 0) return new Response(null, { status: range ? 206 : 200, headers });
	const stream = Readable.toWeb(createReadStream(path, { start: from, end: to })) as ReadableStream<Uint8Array>;
	return new Response(stream, { status: range ? 206 : 200, headers });
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
