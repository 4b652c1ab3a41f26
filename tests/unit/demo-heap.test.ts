import { mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, it } from 'vitest';
import { installDemoHeap, installDemoMedia } from '../../demo/install';
import { sortIntoDevices } from '../../src/lib/core/gather/sort-devices';
import { probeFile } from '../../src/lib/server/media/probe';
import { scanFolder } from '../../src/lib/server/media/scan-folder';

const folder = await mkdtemp(join(tmpdir(), 'open-choir-heap-'));
afterAll(() => rm(folder, { recursive: true }));

it('the demo shoot in one heap sorts itself as its folders do', { timeout: 120_000 }, async () => {
	const sorted = await installDemoMedia(folder);
	const truth = new Map((await scanFolder(sorted)).map((file) => [file.relativePath.split('/').at(-1)!, file.device]));
	const heap = await installDemoHeap(sorted);
	const names = await readdir(heap);
	expect(names.sort()).toEqual([...truth.keys()].sort());
	const files = await Promise.all(
		names.map(async (name) => ({ id: name, path: name, facts: await probeFile(join(heap, name)) }))
	);
	const devices = sortIntoDevices(files);
	expect(devices.map(({ fileIds }) => [...new Set(fileIds.map((id) => truth.get(id)))])).toHaveLength(8);
	for (const { fileIds } of devices) expect(new Set(fileIds.map((id) => truth.get(id))).size).toBe(1);
});
