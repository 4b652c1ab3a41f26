import { expect, test } from '@playwright/test';
import { mkdir, mkdtemp, rm, symlink, writeFile } from 'node:fs/promises';
import { request as httpRequest } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type RunningServer, startServer, waitFor } from '../support/server';
import { readShoot } from '../support/shoot';

/** What must not get in, asked as an attacker would. */
let server: RunningServer;
let folder: string;

test.beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-refusals-'));
	await mkdir(join(folder, 'cards', 'cam'), { recursive: true });
	await mkdir(join(folder, 'secret', 'inner'), { recursive: true });
	await writeFile(join(folder, 'cards', 'cam', 'notes.txt'), 'Not a recording.');
	await writeFile(join(folder, 'cards', 'cam', 'empty.mp4'), '');
	await writeFile(join(folder, 'secret', 'diary.wav'), 'RIFF');
	await symlink(join(folder, 'secret'), join(folder, 'cards', 'way-out'));
	await symlink(join(folder, 'secret', 'diary.wav'), join(folder, 'cards', 'cam', 'linked.wav'));
	// A folder may be called anything.
	server = await startServer(join(folder, "d'a\nta; $(id) &"), ['--media', join(folder, 'cards'), '--no-demo']);
});
test.afterAll(async () => {
	await server.stop();
	await rm(folder, { recursive: true, force: true });
});

interface Answer {
	readonly status: number;
	readonly body: string;
}

/** Plain HTTP: fetch would not let headers such as Host through. */
function ask(
	path: string,
	options: { method?: string; headers?: Record<string, string>; body?: string } = {}
): Promise<Answer> {
	return new Promise((resolve, reject) => {
		const request = httpRequest(
			server.address + path,
			{ method: options.method ?? 'GET', headers: options.headers },
			(response) => {
				let body = '';
				response.on('data', (block: Buffer) => (body += block.toString()));
				response.on('end', () => resolve({ status: response.statusCode!, body }));
			}
		);
		request.on('error', reject);
		request.end(options.body);
	});
}

function handed(path: string): Promise<Record<string, unknown>> {
	return new Promise((resolve, reject) =>
		httpRequest(server.address + path, (response) => (response.resume(), resolve(response.headers)))
			.on('error', reject)
			.end()
	);
}

const post = (path: string, body: unknown, headers: Record<string, string> = {}) =>
	ask(path, {
		method: 'POST',
		body: typeof body === 'string' ? body : JSON.stringify(body),
		headers: { 'content-type': 'application/json', ...headers }
	});

test('foreign names and origins', async () => {
	const { port } = new URL(server.address);
	expect((await ask('/api/shoots', { headers: { host: `evil.example:${port}` } })).status).toBe(403);
	expect((await ask('/api/shoots', { headers: { host: `127.0.0.1.evil.example:${port}` } })).status).toBe(403);
	expect((await ask('/', { headers: { host: 'evil.example' } })).status).toBe(403);
	expect((await post('/api/shoots', { name: 'x', folder }, { origin: 'http://evil.example' })).status).toBe(403);
	expect((await post('/api/shoots', { name: 'x', folder }, { origin: 'http://127.0.0.1:9' })).status).toBe(403);
	expect((await post('/api/shoots', { name: 'x', folder }, { origin: 'null' })).status).toBe(403);
	expect((await post('/api/shoots', { name: 'x', folder }, { 'sec-fetch-site': 'cross-site' })).status).toBe(403);
	expect((await ask('/api/shoots', { headers: { host: `localhost:${port}` } })).status).toBe(200);
});

test('folders outside the allowed ones, by name, by dots, by links', async () => {
	const outside = [
		'/etc',
		join(folder, 'secret'),
		`${folder}/cards/../secret`,
		`${folder}/cards-not`,
		join(folder, 'cards', 'way-out'),
		join(folder, 'cards', 'way-out', 'inner'),
		'/',
		'cards',
		'',
		`${folder}/cards\0/x`
	];
	for (const path of outside) {
		const made = await post('/api/shoots', { name: 'Try', folder: path });
		expect([400, 403, 404], `shoot of ${path}: ${made.body}`).toContain(made.status);
		if (path === '') continue;
		const listed = await ask(`/api/folders?path=${encodeURIComponent(path)}`);
		expect([400, 403, 404], `listing ${path}: ${listed.body}`).toContain(listed.status);
		expect(listed.body).not.toContain('inner');
	}
	expect((await ask(`/api/folders?path=${encodeURIComponent(join(folder, 'cards'))}`)).body).not.toContain('way-out');
});

test('media and hand-offs that were never made', async () => {
	for (const path of [
		'/media/peaks/..%2f..%2f..%2fetc%2fpasswd',
		'/media/peaks/0123',
		`/media/peaks/${'0'.repeat(32)}`,
		`/media/originals/6f9619ff-8b86-4d01-b42d-00c04fc964ff?key=${'0'.repeat(32)}`,
		`/media/stills/6f9619ff-8b86-4d01-b42d-00c04fc964ff?key=${'0'.repeat(32)}&seconds=1&lines=160`,
		`/media/passwd/${'0'.repeat(32)}`,
		'/api/hand-offs/..%2f..',
		'/api/hand-offs/6f9619ff-8b86-4d01-b42d-00c04fc964ff'
	]) {
		expect([400, 404], path).toContain((await ask(path)).status);
	}
});

test('bodies that are too large or no text, however they arrive', async () => {
	// Chunked: it claims no length.
	const large = await ask('/api/shoots', {
		method: 'POST',
		headers: { 'content-type': 'application/json', 'transfer-encoding': 'chunked' },
		body: `{"name":"${'x'.repeat(3_000_000)}"}`
	});
	expect(large.status).toBe(413);
	for (const name of ['\\u0000', 'a\\ud800b', 'x\\u0000y']) {
		const refused = await post('/api/shoots', `{"name":"${name}","folder":"/"}`);
		expect(refused.status, name).toBe(400);
		expect(refused.body).toContain('no text');
	}
	for (const id of ['..%2f..', '%00', 'x'.repeat(5000), '%f0%28', "'; drop table shoot; --"]) {
		const answer = await ask(`/api/shoots/${encodeURI(id)}`, { method: 'DELETE' });
		expect([400, 404], id).toContain(answer.status);
	}
	expect(await handed('/')).toMatchObject({ 'x-frame-options': 'DENY' });
});

test('requests that make no sense get a sentence, not a stack', async () => {
	const unknown = '6f9619ff-8b86-4d01-b42d-00c04fc964ff';
	const cases: readonly [string, unknown, number][] = [
		['/api/shoots', '{', 400],
		['/api/shoots', { name: '', folder }, 400],
		['/api/shoots', 'x'.repeat(300_000), 400],
		[`/api/shoots/${unknown}/edits`, { kind: 'rename-shoot', name: 'x' }, 404],
		[`/api/shoots/${unknown}/edits`, { kind: 'drop table shoot' }, 400],
		[`/api/shoots/not-an-id/edits`, { kind: 'rename-shoot', name: 'x' }, 400],
		[`/api/shoots/${unknown}/jobs`, { kind: 'line-up' }, 404],
		[`/api/shoots/${unknown}/undo`, {}, 404],
		[`/api/jobs/${unknown}`, { action: 'stop' }, 409],
		[`/api/jobs/${unknown}`, { action: 'explode' }, 400]
	];
	for (const [path, body, status] of cases) {
		const answer = await post(path, body);
		expect(answer.status, `${path}: ${answer.body}`).toBe(status);
		const { message } = JSON.parse(answer.body) as { message: string };
		expect(message).toMatch(/^[A-Z].*[.!]$/);
		expect(message).not.toMatch(/at .*\.(ts|js)/);
	}
});

test('what is no media is listed with its reason; links out of the folder are not followed, and said', async () => {
	const made = await post('/api/shoots', { name: 'Cards', folder: join(folder, 'cards') });
	expect(made.status).toBe(201);
	const { id } = JSON.parse(made.body) as { id: string };
	const shoot = () => readShoot(server.address, id);
	await waitFor(async () => (await shoot()).badFiles.length === 4 && (await shoot()).newFiles.length === 0, 30_000);
	const { badFiles } = await shoot();
	expect(badFiles.map((bad) => bad.relativePath)).toEqual([
		'cam/empty.mp4',
		'cam/linked.wav',
		'cam/notes.txt',
		'way-out'
	]);
	expect(badFiles[0]!.reason).toBe('The file is empty.');
	expect(badFiles[1]!.reason).toMatch(/link that cannot be followed.*lies outside/);
	expect(badFiles[2]!.reason).toMatch(/media/);
	expect(badFiles[3]!.reason).toMatch(/lies outside/);
});
