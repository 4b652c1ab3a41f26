import { clipAt } from '../../core/shoot/lookup';
import { toMedia } from '../../core/shoot/placement';
import { type PlacedClip } from '../../core/shoot/clip';
import { flicksToSeconds, secondsToFlicks, videoFrameToFlicks } from '../../core/time/flicks';
import type { Rational } from '../../core/time/rational';
import { frameOfTimecode, timecodeOfFrame } from '../../core/time/timecode';
import { timecodeWords } from '../controls/words';

/** How times of the line-up are shown. */
export const TIMES_SHOWN = ['timecode', 'clock time', 'seconds', 'samples'] as const;
export type TimeShown = (typeof TIMES_SHOWN)[number];

const SAMPLE_RATE = 48_000;

/** Clock time of the line-up's zero, as the reference device's clips tell it; nothing where none does. */
export function clockOfZero(
	placed: readonly PlacedClip[],
	referenceId: string | undefined,
	aboutFlicks: number
): number | undefined {
	const own = placed.filter((clip) => clip.deviceId === referenceId && clip.clockSeconds !== undefined);
	const clip = clipAt(own, referenceId ?? '', aboutFlicks) ?? own[0];
	if (clip?.clockSeconds === undefined) return undefined;
	return clip.clockSeconds + flicksToSeconds(toMedia(clip.placement, 0));
}

/** A time of the line-up in words. @param clockSeconds of the line-up's zero */
export function timeWords(flicks: number, shown: TimeShown, rate: Rational, clockSeconds: number | undefined): string {
	switch (shown) {
		case 'timecode':
			return timecodeWords(flicks, rate);
		case 'clock time':
			return clockSeconds === undefined ? timecodeWords(flicks, rate) : clockOf(flicks, rate, clockSeconds);
		case 'seconds':
			return `${flicksToSeconds(flicks).toFixed(3)} s`;
		case 'samples':
			return `${Math.round(flicksToSeconds(flicks) * SAMPLE_RATE)}`;
	}
}

function clockOf(flicks: number, rate: Rational, clockSeconds: number): string {
	const seconds = (((clockSeconds + flicksToSeconds(flicks)) % 86_400) + 86_400) % 86_400;
	return timecodeOfFrame(Math.floor((seconds * rate.num) / rate.den + 1e-6), rate);
}

/**
 * A typed time as a time of the line-up: a timecode (its front may be left out), seconds with an s, samples with smp.
 * @returns nothing where it is none
 */
export function timeFromText(
	text: string,
	shown: TimeShown,
	rate: Rational,
	clockSeconds: number | undefined
): number | undefined {
	const typed = text.trim();
	const plain = /^(-?\d+(?:[.,]\d+)?)\s*(s|smp)?$/.exec(typed);
	if (plain && (plain[2] || shown === 'seconds' || shown === 'samples')) {
		const value = Number(plain[1]!.replace(',', '.'));
		const isSamples = plain[2] === 'smp' || (!plain[2] && shown === 'samples');
		return secondsToFlicks(isSamples ? value / SAMPLE_RATE : value);
	}
	const groups = typed.replace(/^-/, '').split(/[:;.]/);
	if (groups.length > 4 || groups.some((group) => !/^\d{1,3}$/.test(group))) return undefined;
	const full = [...Array.from({ length: 4 - groups.length }, () => '00'), ...groups].join(':');
	const frame = frameOfTimecode(`${typed.startsWith('-') ? '-' : ''}${full}`, rate);
	if (frame === undefined) return undefined;
	const flicks = videoFrameToFlicks(frame, rate);
	return shown === 'clock time' && clockSeconds !== undefined ? flicks - secondsToFlicks(clockSeconds) : flicks;
}
