import fc from 'fast-check';
import SmpteTimecode from 'smpte-timecode';
import { describe, expect, it } from 'vitest';
import { flicksPerFrame, flicksToVideoFrame, videoFrameToFlicks } from './flicks';
import { parseRational, rateInWords } from './rational';
import { frameOfTimecode, timecodeOfFrame } from './timecode';

const NTSC = { num: 30000, den: 1001 };
const NTSC60 = { num: 60000, den: 1001 };

describe('timecode', () => {
	// Check values of SMPTE ST 12-1 as written in docs (memory; agree with ffmpeg's tmcd counts).
	it.each([
		[1800, NTSC, '00:01:00;02'],
		[17981, NTSC, '00:09:59;29'],
		[17982, NTSC, '00:10:00;00'],
		[107892, NTSC, '01:00:00;00'],
		[3600, NTSC60, '00:01:00;04'],
		[215784, NTSC60, '01:00:00;00']
	])('frame %i drop-frame', (frame, rate, label) => {
		expect(timecodeOfFrame(frame, rate, true)).toBe(label);
		expect(frameOfTimecode(label, rate)).toBe(frame);
	});

	it('counts plainly without dropping', () => {
		expect(timecodeOfFrame(916813, { num: 25, den: 1 })).toBe('10:11:12:13');
		expect(frameOfTimecode('10:11:12:13', { num: 25, den: 1 })).toBe(916813);
	});

	it('knows labels that do not exist', () => {
		expect(frameOfTimecode('00:01:00;01', NTSC)).toBeUndefined();
		expect(frameOfTimecode('00:00:00:25', { num: 25, den: 1 })).toBeUndefined();
		expect(frameOfTimecode('a clap', NTSC)).toBeUndefined();
	});

	it('agrees with the smpte-timecode package on any frame of a day', () => {
		fc.assert(
			fc.property(fc.integer({ min: 0, max: 2_589_407 }), (frame) => {
				const outside = new SmpteTimecode(frame, 29.97, true);
				expect(timecodeOfFrame(frame, NTSC, true)).toBe(outside.toString());
				expect(frameOfTimecode(outside.toString(), NTSC)).toBe(frame);
			})
		);
	});
});

describe('flicks', () => {
	it('hold frames of the trade as whole numbers', () => {
		for (const rate of [
			{ num: 24000, den: 1001 },
			{ num: 25, den: 1 },
			NTSC,
			NTSC60,
			{ num: 48000, den: 1 },
			{ num: 44100, den: 1 }
		]) {
			expect(Number.isInteger(flicksPerFrame(rate))).toBe(true);
		}
	});

	it('find the frame again that begins at a time', () => {
		fc.assert(
			fc.property(fc.integer({ min: -1_000_000, max: 10_000_000 }), (frame) => {
				expect(flicksToVideoFrame(videoFrameToFlicks(frame, NTSC), NTSC)).toBe(frame);
				expect(flicksToVideoFrame(videoFrameToFlicks(frame, NTSC) - 1, NTSC)).toBe(frame - 1);
			})
		);
	});
});

describe('rates', () => {
	it('are said as the trade says them', () => {
		expect(rateInWords(NTSC)).toBe('29.97');
		expect(rateInWords({ num: 24000, den: 1001 })).toBe('23.976');
		expect(rateInWords({ num: 25, den: 1 })).toBe('25');
		expect(parseRational('0/0')).toBeUndefined();
		expect(parseRational('30000/1001')).toEqual(NTSC);
	});
});
