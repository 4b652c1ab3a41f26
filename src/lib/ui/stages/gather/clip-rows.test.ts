import { describe, expect, it } from 'vitest';
import { sampleClip, sampleDevice } from '../../../../../tests/support/sample-shoot';
import { type ClipFilter, type ClipOrder, clipRows, NO_FILTER } from './clip-rows';

const devices = [sampleDevice('A'), { ...sampleDevice('1'), channelNames: ['Host', ''] }];
const clips = [
	{ ...sampleClip({ badge: 'A', start: 0, length: 50 }, 0), id: 'a', name: 'C10', scene: '2', circled: true },
	{
		...sampleClip({ badge: 'A', start: 0, length: 70 }, 1),
		id: 'b',
		name: 'C2',
		scene: '10',
		clockSeconds: 5,
		stray: 'silent' as const
	},
	{ ...sampleClip({ badge: '1', start: 0, length: 60 }, 0), id: 'c', name: 'T1', note: 'plane' }
];

function rows(filter: Partial<ClipFilter> = {}, order: ClipOrder = 'name', descending = false) {
	return clipRows(devices, clips, { ...NO_FILTER, ...filter }, order, descending).map((row) =>
		row.kind === 'device' ? `${row.device.badge} ${row.shown}/${row.clips.length}` : row.clip.id
	);
}

describe('rows of the clip table', () => {
	it('are sorted within each device', () => {
		expect(rows()).toEqual(['A 2/2', 'b', 'a', '1 1/1', 'c']);
		expect(rows({}, 'name', true)).toEqual(['A 2/2', 'a', 'b', '1 1/1', 'c']);
		expect(rows({}, 'scene').slice(1, 3)).toEqual(['a', 'b']);
		expect(rows({}, 'clock').slice(1, 3)).toEqual(['b', 'a']);
		expect(rows({}, 'length', true).slice(1, 3)).toEqual(['b', 'a']);
	});

	it.each([
		[{ text: 'c10' }, ['A 1/2', 'a']],
		[{ text: 'PLANE' }, ['1 1/1', 'c']],
		[{ person: 'Host' }, ['1 1/1', 'c']],
		[{ scene: '10' }, ['A 1/2', 'b']],
		[{ circled: true }, ['A 1/2', 'a']],
		[{ strays: true }, ['A 1/2', 'b']],
		[{ deviceId: 'device-1', circled: true }, []]
	] as const)('are filtered by %o', (filter, expected) => {
		expect(rows(filter)).toEqual(expected);
	});
});
