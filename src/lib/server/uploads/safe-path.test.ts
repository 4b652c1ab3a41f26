import { describe, expect, it } from 'vitest';
import { numbered, safePath } from './safe-path';

describe('a path a browser tells', () => {
	it.each([
		['camera a/C0001.MP4', 'camera a/C0001.MP4'],
		['/camera a//C0001.MP4', 'camera a/C0001.MP4'],
		['../../etc/passwd', 'etc/passwd'],
		['a/./../b', 'a/b'],
		['C:\\cards\\x.wav', 'C_/cards/x.wav'],
		['.hidden', 'hidden'],
		['tab\there?.wav', 'tab_here_.wav'],
		['aux.wav', '_aux.wav'],
		['..', 'file'],
		['', 'file'],
		['cafe\u0301.wav', 'café.wav']
	])('%s is kept as %s', (told, kept) => {
		expect(safePath(told)).toBe(kept);
	});

	it('is never longer than file systems allow, and keeps its ending', () => {
		const long = safePath(`${'ü'.repeat(300)}.wav`);
		expect(Buffer.byteLength(long)).toBeLessThanOrEqual(200);
		expect(long.endsWith('ü.wav')).toBe(true);
		expect(safePath(Array.from({ length: 40 }, (_, part) => `${part}`).join('/')).split('/')).toHaveLength(12);
	});

	it('gets a number before its ending', () => {
		expect(numbered('a.b/C0001.MP4', 2)).toBe('a.b/C0001 (2).MP4');
		expect(numbered('a.b/name', 3)).toBe('a.b/name (3)');
	});
});
