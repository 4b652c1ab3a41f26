import { mkdir, mkdtemp, readFile, realpath, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import { seededRandom } from '../../demo/random';
import { AccessError, allowFolders } from '../../src/lib/server/access/allowed-folders';
import { putInPlace } from '../../src/lib/server/uploads/land-file';
import { safePath } from '../../src/lib/server/uploads/safe-path';
import { IS_LONG } from '../support/long-checks';

/** Names and paths as nobody of good will writes them: none leads out, each is written or refused. */
const COUNT = IS_LONG ? 10_000 : 1000;
const PARTS = [
	...[
		'..',
		'.',
		'...',
		'.. ',
		' ..',
		'..\u200b',
		'\u2025',
		'．．',
		'%2e%2e',
		'..%2f',
		'..\\',
		'..;',
		'~',
		'~root',
		'-',
		'--'
	],
	...[
		'etc',
		'passwd',
		'proc',
		'self',
		'fd',
		'0',
		'way-out',
		'inside',
		'secret',
		'loop',
		'C:',
		'CON',
		'nul.wav',
		'aux',
		'com1.mp4'
	],
	...[
		'a',
		'A001.mp4',
		'x'.repeat(255),
		'ü'.repeat(200),
		'😀'.repeat(70),
		'e\u0301',
		'\u202egpj.exe',
		'\ufeff',
		'\u0000',
		'\n',
		'\r\n',
		'\t',
		'\u007f'
	],
	...[
		'$(id)',
		'`id`',
		'; rm -rf .',
		'| cat',
		'&',
		"'",
		'"',
		'*',
		'?',
		'<x>',
		'file:',
		'http:',
		'pipe:0',
		'concat:a|b',
		'subfile,,start,0,end,9,,:',
		'\ud83d',
		'name.mp4.part',
		'.hidden'
	]
];
const REAL = ['..', 'inside', 'a', 'loop', 'way-out', 'proc', '.', 'allowed'];
const SEPARATORS = ['/', '//', '\\', '/./', '/../', '\u2215', '%2f', '/\u0000/'];

function hostile(random: () => number): string {
	const pick = (list: readonly string[]) => list[Math.floor(random() * list.length)]!;
	// Some lead in and out among folders that are there.
	if (random() < 0.3) return Array.from({ length: 1 + Math.floor(random() * 6) }, () => pick(REAL)).join('/');
	let path = random() < 0.3 ? pick(SEPARATORS) : '';
	for (let count = 1 + Math.floor(random() * 9); count > 0; count--) path += pick(PARTS) + pick(SEPARATORS);
	// And what no list thinks of.
	for (let count = Math.floor(random() * 6); count > 0; count--) {
		const at = Math.floor(random() * path.length);
		path = path.slice(0, at) + String.fromCharCode(Math.floor(random() * 0x300)) + path.slice(at);
	}
	return path;
}

it(`${COUNT} hostile names and paths lead nowhere but where they may`, { timeout: 300_000 }, async () => {
	const base = await realpath(await mkdtemp(join(tmpdir(), 'open-choir-hostile-')));
	try {
		const [allowed, landing] = [join(base, 'allowed'), join(base, 'landing')];
		for (const path of [join(allowed, 'inside', 'a'), join(base, 'secret'), landing])
			await mkdir(path, { recursive: true });
		await symlink(join(base, 'secret'), join(allowed, 'way-out'));
		await symlink('/', join(allowed, 'inside', 'proc'));
		await symlink(allowed, join(allowed, 'loop'));
		const folders = await allowFolders({ folders: [allowed] });
		const random = seededRandom(77);
		const ends = { written: 0, reached: 0, refused: 0 };
		for (let count = 0; count < COUNT; count++) {
			const told = hostile(random);
			const safe = safePath(told);
			const target = join(landing, safe);
			expect(target.startsWith(`${landing}/`), JSON.stringify(told)).toBe(true);
			expect(safe.isWellFormed(), JSON.stringify(told)).toBe(true);
			expect(safe).not.toMatch(/[\p{Cc}\\:*?"<>|]|(^|\/)\.|\/\//u);
			expect(safePath(safe), JSON.stringify(told)).toBe(safe);
			const part = join(base, `part-${count}`);
			await writeFile(part, `${count}`);
			const landed = await putInPlace(part, landing, safe);
			expect(landed.startsWith(`${landing}/`), JSON.stringify(told)).toBe(true);
			expect(await realpath(landed)).toBe(landed);
			expect(await readFile(landed, 'utf8')).toBe(`${count}`);
			ends.written++;
			for (const path of [told, `${allowed}/${told}`, `${allowed}/inside/${told}`, `${allowed}/loop/${told}`]) {
				const real = await folders.resolve(path).catch((error: unknown) => {
					expect(error, JSON.stringify(path)).toBeInstanceOf(AccessError);
					return undefined;
				});
				if (real === undefined) ends.refused++;
				else {
					ends.reached++;
					expect(real === allowed || real.startsWith(`${allowed}/`), JSON.stringify(path)).toBe(true);
				}
			}
		}
		expect(ends.written).toBe(COUNT);
		expect(ends.refused).toBeGreaterThan(COUNT);
		expect(ends.reached).toBeGreaterThan(0);
	} finally {
		await rm(base, { recursive: true, force: true });
	}
});
