import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../../../demo/random';
import { type Heap, HEAPS } from '../../../../tests/support/heaps';
import { type SortableFile, sortIntoDevices } from './sort-devices';

/** For each device found, the true devices its files are of. */
function found(heap: Heap, files: readonly SortableFile[] = heap.files): readonly (readonly string[])[] {
	const truth = new Map(heap.files.map((file) => [file.id, file.truth]));
	return sortIntoDevices(files).map(({ fileIds }) => fileIds.map((id) => truth.get(id)!));
}

const isMerged = (device: readonly string[]) => new Set(device).size > 1;

/** Without what a copy, a conversion or a cheap device loses. */
function without(heap: Heap, ...facts: readonly ('creationTime' | 'make' | 'model' | 'serial')[]): Heap {
	const strip = (file: Heap['files'][number]) => ({
		...file,
		facts: Object.fromEntries(
			Object.entries(file.facts).filter(([name]) => !(facts as readonly string[]).includes(name))
		) as unknown as typeof file.facts
	});
	return { ...heap, files: heap.files.map(strip) };
}

describe('sorting heaps of files into devices', () => {
	it.each(HEAPS.map((heap) => [heap.name, heap] as const))('%s', (_, heap) => {
		const devices = found(heap);
		expect(devices.filter(isMerged)).toEqual([]);
		expect(devices).toHaveLength(new Set(heap.files.map((file) => file.truth)).size);
	});

	it.each(HEAPS.map((heap) => [heap.name, heap] as const))('in any order: %s', (_, heap) => {
		const random = seededRandom(7);
		const shuffled = heap.files.map((file) => ({ file, at: random() })).sort((a, b) => a.at - b.at);
		const sets = (devices: readonly (readonly string[])[]) => devices.map((one) => one.join('')).sort();
		expect(
			sets(
				found(
					heap,
					shuffled.map(({ file }) => file)
				)
			)
		).toEqual(sets(found(heap)));
	});

	it.each(HEAPS.map((heap) => [heap.name, heap] as const))(
		'where less is told, apart rather than wrong: %s',
		(_, heap) => {
			expect(found(without(heap, 'creationTime')).filter(isMerged)).toEqual([]);
			expect(found(without(heap, 'make', 'model')).filter(isMerged)).toEqual([]);
			if (!heap.name.includes('serial'))
				expect(found(without(heap, 'creationTime', 'make', 'model', 'serial')).filter(isMerged)).toEqual([]);
		}
	);

	it.each(HEAPS.map((heap) => [heap.name, heap] as const))(
		'a later card goes to the devices that are known: %s',
		(_, heap) => {
			const known = new Map(
				heap.files.filter((__, index) => index % 2 === 0).map((file) => [file.id, `device ${file.truth}`])
			);
			const files = heap.files.map((file) => ({
				...file,
				...(known.has(file.id) ? { device: known.get(file.id)! } : {})
			}));
			const devices = sortIntoDevices(files);
			for (const { device, fileIds } of devices) {
				const truths = new Set(fileIds.map((id) => heap.files.find((file) => file.id === id)!.truth));
				expect(truths.size).toBe(1);
				if (device !== undefined) expect(device).toBe(`device ${[...truths][0]}`);
			}
		}
	);

	it('keeps what the editor decided, whatever the files tell', () => {
		const heap = HEAPS.find(({ name }) => name === 'one folder for each device')!;
		const files = heap.files.map((file) => ({ ...file, device: file.truth === 'b' ? 'x' : 'y' }));
		const devices = sortIntoDevices(files).map(({ device, fileIds }) => [device, fileIds.length]);
		expect(devices.sort()).toEqual([
			['x', 4],
			['y', 8]
		]);
	});

	it('says why', () => {
		const reasonsOf = (name: string) =>
			sortIntoDevices(HEAPS.find((heap) => heap.name === name)!.files).map(({ reasons }) => reasons.join(' '));
		expect(reasonsOf('two cameras of one model, told apart by serial numbers only')[0]).toContain('count on');
		expect(reasonsOf('two cameras of one model in one heap, told apart by their times')[0]).toContain(
			'no device records two clips at once'
		);
		expect(reasonsOf('two days, the same devices each').join()).toContain('one name, “cam wide”');
	});
});
