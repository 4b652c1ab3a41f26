import pMap from 'p-map';
import { openAsBlob } from 'node:fs';
import { copyFile, mkdir, mkdtemp, open, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sortIntoDevices } from '../../src/lib/core/gather/sort-devices';
import { identify } from '../../src/lib/server/media/media-cache';
import { probeFile } from '../../src/lib/server/media/probe';
import { scanFolder } from '../../src/lib/server/media/scan-folder';
import { startServer } from '../e2e/support/server';
import { runProgram as run } from '../../scripts/outside-programs';

const FILES = 500;
const UPLOAD_BYTES = 2 ** 30;

async function seconds(work: () => Promise<unknown>): Promise<number> {
	const began = performance.now();
	await work();
	return (performance.now() - began) / 1000;
}

/** How fast a heap of files is listed, read and sorted, and how fast one is taken in through the page's protocol. */
export async function benchGather(): Promise<string> {
	const folder = await mkdtemp(join(tmpdir(), 'open-choir-bench-'));
	try {
		return [await reading(join(folder, 'cards')), '', await uploading(folder)].join('\n');
	} finally {
		await rm(folder, { recursive: true, force: true });
	}
}

async function reading(cards: string): Promise<string> {
	await mkdir(join(cards, 'deep', 'down'), { recursive: true });
	const one = join(cards, 'deep', 'down', 'C0001.MP4');
	const [picture, sound] = ['testsrc2=s=640x360:r=25:d=10', 'sine=d=10'].map((source) => ['-f', 'lavfi', '-i', source]);
	await run('ffmpeg', ['-v', 'error', ...picture!, ...sound!, '-c:v', 'libx264', '-c:a', 'aac', one]);
	for (let index = 2; index <= FILES; index++)
		await copyFile(one, join(cards, 'deep', 'down', `C${`${index}`.padStart(4, '0')}.MP4`));
	let found = await scanFolder(cards);
	const listed = await seconds(async () => {
		found = await scanFolder(cards);
		await pMap(found, (file) => identify(file.path), { concurrency: 8 });
	});
	const bare = await seconds(async () => {
		for (const { path } of found)
			await run('ffprobe', ['-v', 'error', '-of', 'json', '-show_format', '-show_streams', path]);
	});
	let facts: Awaited<ReturnType<typeof probeFile>>[] = [];
	const probed = await seconds(async () => {
		facts = [...(await pMap(found, (file) => probeFile(file.path), { concurrency: 4 }))];
	});
	const files = found.map((file, index) => ({ id: file.path, path: file.relativePath, facts: facts[index]! }));
	const sorted = await seconds(() => Promise.resolve(sortIntoDevices(files)));
	const rate = (taken: number) => `${(FILES / taken).toFixed(0)} a second`;
	return [
		`${FILES} files in a folder tree. The yardstick is bare ffprobe, one file after another, in the same run.`,
		'',
		'| step | files | against bare ffprobe |',
		'|---|---|---|',
		`| bare ffprobe, one after another | ${rate(bare)} | 1 |`,
		`| listing, with size and digest | ${rate(listed)} | ${(bare / listed).toFixed(1)} times as fast |`,
		`| reading what they say | ${rate(probed)} | ${(bare / probed).toFixed(1)} times as fast |`,
		`| sorting into devices | ${rate(sorted)} | ${(bare / sorted).toFixed(0)} times as fast |`
	].join('\n');
}

async function uploading(folder: string): Promise<string> {
	const source = join(folder, 'upload.bin');
	const file = await open(source, 'w');
	const block = Buffer.alloc(2 ** 20, 'open choir ');
	for (let at = 0; at < UPLOAD_BYTES; at += block.length) await file.write(block);
	await file.sync();
	await file.close();
	const copied = await seconds(() => copyFile(source, join(folder, 'copy.bin')));
	const server = await startServer(join(folder, 'data'), ['--no-demo']);
	try {
		const api = (path: string, init: RequestInit) => fetch(`${server.address}${path}`, init);
		const made = await api('/api/shoots', {
			method: 'POST',
			headers: { 'content-type': 'application/json' },
			body: '{"name":"x"}'
		});
		const { id } = (await made.json()) as { id: string };
		const base64 = (text: string) => Buffer.from(text).toString('base64');
		const sent = await seconds(async () => {
			const begun = await api('/api/uploads', {
				method: 'POST',
				headers: {
					'tus-resumable': '1.0.0',
					'upload-length': `${UPLOAD_BYTES}`,
					'upload-metadata': `shootId ${base64(id)},relativePath ${base64('upload.bin')}`
				}
			});
			const answer = await api(begun.headers.get('location')!, {
				method: 'PATCH',
				headers: { 'tus-resumable': '1.0.0', 'upload-offset': '0', 'content-type': 'application/offset+octet-stream' },
				body: await openAsBlob(source)
			});
			if (answer.status !== 204) throw new Error(`The upload ended with ${answer.status}: ${await answer.text()}`);
		});
		return `A file of 1 GiB arrives through the upload protocol in ${(sent / copied).toFixed(1)} times the time of a plain copy on the same disk (${(UPLOAD_BYTES / 1e6 / sent).toFixed(0)} MB a second).`;
	} finally {
		await server.stop();
	}
}
