import { describe, expect, it } from 'vitest';
import { clockTimes } from './clock-days';

const H = 3600;
const clip = (deviceId: string, clock: number, recordedAt?: string) => ({ deviceId, clockSeconds: clock, recordedAt });

describe('clock times over days', () => {
	it('lay days two and three behind day one, whatever the time zone of the dates', () => {
		// A camera two hours east of Greenwich that writes its dates in UTC, and one that writes its own time.
		const times = clockTimes([
			clip('A', 10 * H, '2026-05-16T08:00:00.000000Z'),
			clip('A', 9 * H, '2026-05-17T07:00:00Z'),
			clip('A', 0.5 * H, '2026-05-17T22:30:00Z'),
			clip('1', 10 * H, '2026-05-16T10:00:00'),
			clip('1', 11 * H, '2026-05-18T11:00:00')
		]);
		expect(times.map((seconds) => seconds / H)).toEqual([10, 33, 48.5, 10, 59]);
	});

	it('go on over midnight where no file tells a date', () => {
		expect(clockTimes([clip('A', 23 * H), clip('A', 0.2 * H), clip('B', 22 * H)]).map((one) => one / H)).toEqual([
			23, 24.2, 22
		]);
		expect(clockTimes([clip('A', 8 * H), clip('A', 0.2 * H)]).map((one) => one / H)).toEqual([8, 0.2]);
	});
});
