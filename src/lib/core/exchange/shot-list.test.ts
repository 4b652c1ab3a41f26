import { AS_RECORDED } from '../shoot/decisions';
import { describe, expect, it } from 'vitest';
import { sampleProgram, sampleShoot } from '../../../../tests/support/sample-shoot';
import { shotList } from './shot-list';

describe('the list of shots', () => {
	it('tells what the movie shows, stretch by stretch, with what stands in and what is held', () => {
		const shoot = sampleShoot([
			{ badge: 'A', start: 0, length: 40 },
			{ badge: 'B', start: 20, length: 10 }
		]);
		const rows = shotList(
			shoot,
			sampleProgram(10, 50, [
				[10, 'A'],
				[15, 'B']
			])
		);
		expect(
			rows.map((row) => [row.shot, row.in, row.out, row.frames, row.called, row.shown, row.remark.split(':')[0]])
		).toEqual([
			[1, '00:00:10:00', '00:00:15:00', 125, 'A Device A', 'A Device A', ''],
			[2, '00:00:15:00', '00:00:20:00', 125, 'B Device B', 'A Device A', 'stands in'],
			[2, '00:00:20:00', '00:00:30:00', 250, 'B Device B', 'B Device B', ''],
			[2, '00:00:30:00', '00:00:40:00', 250, 'B Device B', 'A Device A', 'stands in'],
			[2, '00:00:40:00', '00:00:50:00', 250, 'B Device B', 'A Device A', 'held']
		]);
		expect(rows[2]!.file).toBe('folder-B/clip-1-0.mp4');
	});

	it('tells what is heard by the names of channels, else by people', () => {
		const shoot = {
			...sampleShoot([{ badge: 'A', start: 0, length: 40 }], {}),
			people: [{ id: 'p', name: 'Marit', mark: 0, channels: [{ deviceId: 'device-A', channel: 0 }] }]
		};
		const [lineUp] = shoot.lineUps;
		const master = [0, 1].map((channel) => ({ ...AS_RECORDED, deviceId: 'device-A', channel }));
		const heard = shotList({ ...shoot, lineUps: [{ ...lineUp!, master }] }, sampleProgram(0, 10, [[0, 'A']]))[0]!.heard;
		expect(heard).toBe('Device A: Marit + channel 2');
	});
});
