import { describe, expect, it } from 'vitest';
import { clipOfLine, findHeadings, readReport } from './sound-report';

const TABLE = [
	['Sound report', '', '', '', '', '', ''],
	['Date', '2026-05-16', 'Mixer', 'N. N.', '', '', ''],
	['TAKE', 'Comment', 'Scene', 'File Name', 'Circled', 'Ch 1', 'Ch 2'],
	['1', 'plane', '4A', 'T01.WAV', 'no', 'Boom', 'Host'],
	['2', '', '4A', 'T02.WAV', 'YES', 'Boom', ''],
	['', 'lunch', '', '', '', '', '']
];

describe('a sound report', () => {
	it('is read whatever the order of its columns', () => {
		const { row, mapping } = findHeadings(TABLE);
		expect(row).toBe(2);
		expect(mapping).toEqual(['take', 'note', 'scene', 'file', 'circled', 'channel', 'channel']);
		expect(readReport(TABLE.slice(row + 1), mapping)).toEqual([
			{ file: 'T01.WAV', scene: '4A', take: '1', circled: false, note: 'plane', channels: ['Boom', 'Host'] },
			{ file: 'T02.WAV', scene: '4A', take: '2', circled: true, channels: ['Boom', ''] }
		]);
	});

	it('can be mapped by hand', () => {
		expect(readReport([['x', 'T01', '7']], [undefined, 'file', 'scene'])).toEqual([
			{ file: 'T01', scene: '7', channels: [] }
		]);
	});

	it('finds its clips by their files, and takes by the beginning of them', () => {
		const clips = [
			{ files: ['rec/T01.WAV', 'rec/T02.WAV'] },
			{ files: ['rec/T03_Tr1.WAV', 'rec/T03_Tr2.WAV'] },
			{ files: ['cam/T04.MOV'] },
			{ files: ['cam/T040.MOV'] }
		];
		const of = (file: string) => clips.indexOf(clipOfLine({ file, channels: [] }, clips)!);
		expect([of('t02.wav'), of('T03'), of('C:\\rec\\T04'), of('T0'), of('T09.WAV')]).toEqual([0, 1, 2, -1, -1]);
	});
});
