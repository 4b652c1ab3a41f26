import { describe, expect, it } from 'vitest';
import { nameFromPattern, type NameParts } from './name-pattern';

const PARTS: NameParts = {
	scene: '4',
	shot: 'b',
	take: '2',
	device: 'Wide',
	angle: 'A',
	date: '2026-05-16',
	name: 'C0012'
};

describe('names from a pattern', () => {
	it.each([
		['{scene}-{take} {angle}', PARTS, '4-2 A'],
		['{scene:3}_{take:2}_{device}_{counter:3}', PARTS, '004_02_Wide_007'],
		['{scene}{shot}-{take}', PARTS, '4b-2'],
		['{date} {name}', PARTS, '2026-05-16 C0012'],
		['{scene}-{take} {angle}', { ...PARTS, scene: '' }, '2 A'],
		['{scene}-{take} {angle}', { ...PARTS, take: '' }, '4 A'],
		['{scene}', { ...PARTS, scene: '' }, ''],
		['{scene:3}', { ...PARTS, scene: '12B' }, '12B']
	])('%s', (pattern, parts, name) => {
		expect(nameFromPattern(pattern, parts, 7)).toBe(name);
	});

	it('says which fields there are', () => {
		expect(() => nameFromPattern('{shoe}', PARTS, 1)).toThrow(
			'There is no field {shoe}. Fields are {scene}, {shot}, {take}'
		);
	});
});
