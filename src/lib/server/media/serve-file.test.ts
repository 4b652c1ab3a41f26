import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { parseRange, serveFile } from './serve-file';

describe('ranges of bytes (RFC 9110, section 14)', () => {
	it.each([
		['bytes=0-9', { from: 0, to: 9 }],
		['bytes=90-', { from: 90, to: 99 }],
		['bytes=-10', { from: 90, to: 99 }],
		['bytes=-1000', { from: 0, to: 99 }],
		['bytes=50-1000', { from: 50, to: 99 }],
		['bytes=100-', 'unsatisfiable'],
		['bytes=9-5', 'unsatisfiable'],
		['bytes=-', undefined],
		['bytes=0-1,5-6', undefined],
		['lines=0-1', undefined],
		[null, undefined]
	])('%s', (header, range) => {
		expect(parseRange(header, 100)).toEqual(range);
	});
});

describe('serving a file', () => {
	let folder: string;
	let path: string;
	const bytes = Buffer.from(Array.from({ length: 1000 }, (_, i) => i % 251));
	beforeAll(async () => {
		folder = await mkdtemp(join(tmpdir(), 'open-choir-serve-'));
		path = join(folder, 'file.bin');
		await writeFile(path, bytes);
	});
	afterAll(() => rm(folder, { recursive: true }));

	const get = (headers: Record<string, string>, method = 'GET') =>
		serveFile(path, new Request('http://127.0.0.1/x', { headers, method }), 'application/octet-stream', {
			downloadName: 'an evening.bin'
		});

	it('answers with the range that is asked for', async () => {
		const response = await get({ range: 'bytes=100-199' });
		expect(response.status).toBe(206);
		expect(response.headers.get('content-range')).toBe('bytes 100-199/1000');
		expect(Buffer.from(await response.arrayBuffer())).toEqual(bytes.subarray(100, 200));
	});

	it('answers with the whole, with nothing, and with a refusal', async () => {
		const whole = await get({});
		expect(whole.status).toBe(200);
		expect(whole.headers.get('content-disposition')).toContain('an%20evening.bin');
		expect(Buffer.from(await whole.arrayBuffer())).toEqual(bytes);
		const head = await get({}, 'HEAD');
		expect(head.headers.get('content-length')).toBe('1000');
		expect((await head.arrayBuffer()).byteLength).toBe(0);
		expect((await get({ range: 'bytes=5000-' })).status).toBe(416);
		await expect(serveFile(join(folder, 'gone'), new Request('http://127.0.0.1/x'), 'a/b')).rejects.toThrow(
			'has not been made'
		);
	});
});
