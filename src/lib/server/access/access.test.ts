import { mkdir, mkdtemp, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { AccessError, type AllowedFolders, allowFolders } from './allowed-folders';
import { usualFolders } from './usual-folders';
import { refusal } from './request-guard';

describe('allowed folders', () => {
	let base: string;
	let folders: AllowedFolders;

	beforeAll(async () => {
		base = await mkdtemp(join(tmpdir(), 'open-choir-access-'));
		await mkdir(join(base, 'media', 'day 2', 'cam'), { recursive: true });
		await mkdir(join(base, 'media', 'day 10'), { recursive: true });
		await mkdir(join(base, 'media', '.hidden'));
		await mkdir(join(base, 'media-private'));
		await symlink(join(base, 'media-private'), join(base, 'media', 'link-out'));
		await symlink(join(base, 'media', 'day 2'), join(base, 'media', 'link-in'));
		await symlink(join(base, 'media'), join(base, 'alias'));
		await mkdir(join(base, 'mounts', 'CARD', 'DCIM'), { recursive: true });
		folders = await allowFolders({
			folders: [join(base, 'alias')],
			usual: [join(base, 'Videos'), join(base, 'media', 'day 2')],
			mounts: [join(base, 'mounts'), join(base, 'no-mounts')]
		});
	});
	afterAll(() => rm(base, { recursive: true }));

	const reach = (path: string) =>
		folders.resolve(path).then(
			(real) => real.slice(base.length),
			(error: AccessError) => error.kind
		);

	it.each([
		['media', '/media'],
		['media/day 2/cam', '/media/day 2/cam'],
		['media/link-in/cam', '/media/day 2/cam'],
		['media/day 2/../day 10', '/media/day 10'],
		['media/nothing', 'missing'],
		['mounts/CARD/DCIM', '/mounts/CARD/DCIM'],
		['mounts', 'outside'],
		['Videos', 'outside'],
		['media-private', 'outside'],
		['media/link-out', 'outside'],
		['media/../media-private', 'outside'],
		['', 'outside']
	])('%s leads to %s', async (path, result) => {
		expect(await reach(join(base, path))).toBe(result);
	});

	it('needs a full path without tricks', async () => {
		await expect(folders.resolve('media')).rejects.toThrow(AccessError);
		await expect(folders.resolve(`${base}/media\0`)).rejects.toThrow(AccessError);
	});

	it('lists folders in the order of their numbers, without hidden ones and links', async () => {
		expect((await folders.foldersIn(join(base, 'media'))).map((path) => path.slice(base.length))).toEqual([
			'/media/day 2',
			'/media/day 10'
		]);
	});

	it('offers what there is, and cards as they are plugged in', async () => {
		const offered = async () => (await folders.offered()).map((path) => path.slice(base.length));
		expect(await offered()).toEqual(['/media', '/media/day 2', '/mounts/CARD']);
		await mkdir(join(base, 'no-mounts', 'SECOND'), { recursive: true });
		expect(await offered()).toEqual(['/media', '/media/day 2', '/mounts/CARD', '/no-mounts/SECOND']);
		expect(await folders.resolve(join(base, 'no-mounts', 'SECOND'))).toContain('SECOND');
		await rm(join(base, 'no-mounts'), { recursive: true });
	});

	it('knows where people keep recordings, in the words of their desktop, and never takes the whole home', async () => {
		const home = join(base, 'home');
		await mkdir(join(home, '.config'), { recursive: true });
		await writeFile(
			join(home, '.config', 'user-dirs.dirs'),
			'# made by xdg-user-dirs-update\nXDG_DESKTOP_DIR="$HOME/Schreibtisch"\nXDG_DOWNLOAD_DIR="$HOME/"\nXDG_VIDEOS_DIR="/srv/films"\nXDG_MUSIC_DIR="/tmp"\n'
		);
		const { folders: usual, mounts } = await usualFolders(home, 'marit');
		expect(usual).toContain(join(home, 'Schreibtisch'));
		expect(usual).toContain('/srv/films');
		expect(usual).toContain(join(home, 'Movies'));
		for (const folder of usual) expect(home.startsWith(folder)).toBe(false);
		expect(mounts).toContain('/media/marit');
	});

	it('says which folder is not there', async () => {
		await expect(allowFolders({ folders: [join(base, 'gone')] })).rejects.toThrow('is not there');
	});
});

describe('the request guard', () => {
	const asked = (host: string | undefined, more: Partial<Parameters<typeof refusal>[0]> = {}) =>
		refusal({ method: 'GET', host, origin: undefined, fetchSite: undefined, ...more }) === undefined;

	it.each([
		['127.0.0.1:4840', true],
		['localhost:4840', true],
		['LOCALHOST', true],
		['[::1]:4840', true],
		['evil.example', false],
		['127.0.0.1.evil.example', false],
		['localhost.evil.example:4840', false],
		['localhost:4840@evil.example', false],
		['', false],
		[undefined, false]
	])('host %s: %s', (host, allowed) => {
		expect(asked(host)).toBe(allowed);
	});

	it('lets only its own pages write', () => {
		const post = (origin: string | undefined, fetchSite?: string) =>
			asked('127.0.0.1:4840', { method: 'POST', origin, fetchSite });
		expect(post('http://127.0.0.1:4840', 'same-origin')).toBe(true);
		expect(post(undefined)).toBe(true);
		expect(post('http://127.0.0.1:9999')).toBe(false);
		expect(post('https://127.0.0.1:4840')).toBe(false);
		expect(post('null')).toBe(false);
		expect(post(undefined, 'cross-site')).toBe(false);
	});
});
