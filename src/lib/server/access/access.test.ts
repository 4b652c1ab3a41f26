import { mkdir, mkdtemp, rm, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { AccessError, type AllowedFolders, allowFolders } from './allowed-folders';
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
		folders = await allowFolders([join(base, 'alias')]);
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

	it('says which folder is not there', async () => {
		await expect(allowFolders([join(base, 'gone')])).rejects.toThrow('is not there');
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
