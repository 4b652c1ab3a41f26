import { mkdtemp, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { pino } from 'pino';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { openTestDatabase, type TestDatabase } from '../../../../tests/support/test-database';
import { openUploadServer, UPLOAD_ROUTE, type UploadServer } from './upload-server';

let folder: string;
let test: TestDatabase;
let uploads: UploadServer;
let shootId: string;

beforeAll(async () => {
	folder = await mkdtemp(join(tmpdir(), 'open-choir-uploads-'));
	test = await openTestDatabase();
	const [shoot] = await test.database.query<{ id: string }>(
		`insert into shoot (name, folder) values ('x', '/x') returning id`
	);
	shootId = shoot!.id;
	uploads = await openUploadServer({
		settings: { dataFolder: folder, mediaFolders: [], demo: false, logLevel: 'silent' },
		log: pino({ level: 'silent' }),
		database: test.database,
		queue: { list: () => Promise.resolve([]), add: () => Promise.resolve('job') } as never
	});
}, 60_000);
afterAll(async () => {
	await test.close();
	await rm(folder, { recursive: true, force: true });
});

const encoded = (text: string) => Buffer.from(text).toString('base64');
const tus = (address: string, method: string, headers: Record<string, string>, body?: Buffer) =>
	uploads.handle(
		new Request(`http://127.0.0.1${address}`, {
			method,
			headers: { 'tus-resumable': '1.0.0', ...headers },
			...(body ? { body: new Uint8Array(body) } : {})
		})
	);

async function begin(path: string, size: number): Promise<string> {
	const metadata = `shootId ${encoded(shootId)},relativePath ${encoded(path)}`;
	const begun = await tus(UPLOAD_ROUTE, 'POST', { 'upload-length': `${size}`, 'upload-metadata': metadata });
	expect(begun.status).toBe(201);
	return new URL(begun.headers.get('location')!, 'http://127.0.0.1').pathname;
}

const goOn = (address: string, offset: number, body: Buffer) =>
	tus(address, 'PATCH', { 'upload-offset': `${offset}`, 'content-type': 'application/offset+octet-stream' }, body);

const landed = async () => {
	const names = await readdir(join(folder, 'uploads', shootId, 'card'));
	return Promise.all(names.sort().map((name) => readFile(join(folder, 'uploads', shootId, 'card', name), 'latin1')));
};

it(
	'uploads of one path and size at the same time each land; what stands still is dropped',
	{ timeout: 30_000 },
	async () => {
		const bodies = Array.from({ length: 8 }, (_, index) => Buffer.alloc(1000, `${index}`));
		const addresses = await Promise.all(bodies.map(() => begin('card/A001.mp4', 1000)));
		const lost = await begin('card/A001.mp4', 1000);
		// The first is whole before the others have begun to flow, the others come piece by piece.
		expect((await goOn(addresses[0]!, 0, bodies[0]!)).status).toBe(204);
		await Promise.all(
			addresses.slice(1).map(async (address, index) => {
				const body = bodies[index + 1]!;
				expect((await goOn(address, 0, body.subarray(0, 300 + index))).status).toBe(204);
				await setTimeout(200);
				expect((await goOn(address, 300 + index, body.subarray(300 + index))).status).toBe(204);
			})
		);
		expect((await landed()).sort()).toEqual(bodies.map((body) => body.toString('latin1')).sort());
		await setTimeout(6000);
		expect(await uploads.unfinished(shootId)).toEqual([]);
		expect((await tus(lost, 'HEAD', {})).status).toBe(404);
	}
);

it('the same file twice at a time is kept once', async () => {
	const body = Buffer.alloc(5000, 'same');
	const addresses = await Promise.all([1, 2, 3].map(() => begin('card/same.wav', 5000)));
	const answers = await Promise.all(addresses.map((address) => goOn(address, 0, body)));
	expect(answers.map((answer) => answer.status)).toEqual([204, 204, 204]);
	expect((await landed()).filter((one) => one === body.toString('latin1'))).toHaveLength(1);
});

it('a beginning that was cut off with the server is dropped where its file has arrived, and kept where not', async () => {
	const arrived = await begin('card/once.wav', 3000);
	expect((await goOn(arrived, 0, Buffer.alloc(3000, 'once'))).status).toBe(204);
	const [lost, other] = [await begin('card/once.wav', 3000), await begin('card/other.wav', 3000)];
	const unnoted = join(folder, 'uploads.part', 'c'.repeat(32));
	await writeFile(unnoted, '');
	await uploads.landComplete();
	await expect(stat(unnoted)).rejects.toThrow('ENOENT');
	await expect.poll(async () => (await tus(lost, 'HEAD', {})).status, { timeout: 8000 }).toBe(404);
	expect((await tus(other, 'HEAD', {})).status).toBe(200);
}, 15_000);
