import { describe, expect, it } from 'vitest';
import { dynamicRangeOf, matrixOf, shownSize } from './picture-facts';

describe('a picture as it was meant', () => {
	it.each([
		// HDV and DVCPRO HD write 1440x1080 with points of 4:3 for a picture of 16:9 (common practice).
		[{ width: 1440, height: 1080, pixelShape: { num: 4, den: 3 } }, 1920, 1080],
		// PAL, 720x576 for 4:3: 768x576 by 16:15 (ITU-R BT.601 pictures as ffmpeg tags them).
		[{ width: 720, height: 576, pixelShape: { num: 16, den: 15 } }, 768, 576],
		[{ width: 1920, height: 1080, rotation: 90 as const }, 1080, 1920],
		[{ width: 1440, height: 1080, pixelShape: { num: 4, den: 3 }, rotation: 270 as const }, 1080, 1920],
		[{ width: 641, height: 359 }, 642, 360]
	])('%j is seen as %i by %i', (picture, width, height) => {
		expect(shownSize(picture)).toEqual({ width, height });
	});

	it('tells high dynamic range by its transfer, and takes the usual matrix where none is tagged', () => {
		expect(dynamicRangeOf({ transfer: 'smpte2084' })).toBe('PQ');
		expect(dynamicRangeOf({ transfer: 'arib-std-b67' })).toBe('HLG');
		expect(dynamicRangeOf(undefined)).toBe('SDR');
		expect([matrixOf(undefined, 1080), matrixOf(undefined, 576), matrixOf({ matrix: 'bt470bg' }, 1080)]).toEqual([
			'bt709',
			'smpte170m',
			'bt470bg'
		]);
	});
});
