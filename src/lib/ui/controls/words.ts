import { flicksToSeconds, flicksToVideoFrame } from '../../core/time/flicks';
import type { Rational } from '../../core/time/rational';
import { timecodeOfFrame } from '../../core/time/timecode';

/** A time of the line-up as hours, minutes, seconds and frames. */
export function timecodeWords(flicks: number, rate: Rational): string {
	return timecodeOfFrame(flicksToVideoFrame(flicks, rate), rate);
}

/** A length of time: 4:05, 1:02:33, 8.2 s. */
export function lengthWords(flicks: number): string {
	const seconds = flicksToSeconds(flicks);
	if (seconds < 60) return `${seconds.toFixed(1)} s`;
	const whole = Math.round(seconds);
	const two = (value: number) => `${value}`.padStart(2, '0');
	const hours = Math.floor(whole / 3600);
	return hours > 0
		? `${hours}:${two(Math.floor(whole / 60) % 60)}:${two(whole % 60)}`
		: `${Math.floor(whole / 60)}:${two(whole % 60)}`;
}

export function sizeWords(bytes: number): string {
	if (bytes < 1000) return `${bytes} bytes`;
	const units = ['kB', 'MB', 'GB', 'TB'];
	let value = bytes;
	let unit = -1;
	while (value >= 1000 && unit < units.length - 1) {
		value /= 1000;
		unit++;
	}
	return `${value.toFixed(value < 10 ? 1 : 0)} ${units[unit]}`;
}

export function ppmWords(ratePpm: number): string {
	const digits = Math.abs(ratePpm).toFixed(1);
	if (Number(digits) === 0) return '0.0 ppm';
	return `${ratePpm < 0 ? '−' : '+'}${digits} ppm`;
}

/** The clock of a clip; a single sync point tells nothing of it. */
export function clockRateWords({ method, ratePpm }: { readonly method: string; readonly ratePpm: number }): string {
	return method === 'sync point' && ratePpm === 0 ? 'not known' : ppmWords(ratePpm);
}

/** A number with its sign and two digits; what rounds to nothing has no sign. */
export function signedWords(value: number): string {
	const digits = Math.abs(value).toFixed(2);
	return value < 0 && Number(digits) !== 0 ? `−${digits}` : digits;
}

/** A level change: +3.5 dB, −2.0 dB. */
export function signedDecibels(decibels: number): string {
	const digits = Math.abs(decibels).toFixed(1);
	return `${Number(digits) === 0 ? '' : decibels < 0 ? '−' : '+'}${digits} dB`;
}

export function millisecondsWords(seconds: number): string {
	return `${(seconds * 1000).toFixed(seconds < 0.001 ? 2 : 1)} ms`;
}

export function countWords(count: number, one: string, many = `${one}s`): string {
	return `${count} ${count === 1 ? one : many}`;
}

export function timeLeftWords(seconds: number | null): string {
	if (seconds === null) return '';
	return seconds < 90
		? `about ${Math.max(1, Math.round(seconds))} s left`
		: `about ${Math.round(seconds / 60)} min left`;
}

/** How far something is: its share, what it is at, and how long it will take. */
export function progressWords(share: number, message: string, secondsLeft: number | null): string {
	return [`${Math.floor(share * 100)}%`, message, timeLeftWords(secondsLeft)].filter(Boolean).join(' · ');
}

/** Seconds since the first midnight: days after the first one are told. */
export function dayClockWords(seconds: number): string {
	const day = Math.floor(seconds / 86_400);
	return `${day > 0 ? `day ${day + 1}, ` : ''}${clockWords(seconds)}`;
}

/** Seconds since midnight as a clock shows them. */
export function clockWords(seconds: number): string {
	const whole = Math.floor(seconds) % 86_400;
	const two = (value: number) => `${value}`.padStart(2, '0');
	return `${two(Math.floor(whole / 3600))}:${two(Math.floor(whole / 60) % 60)}:${two(whole % 60)}`;
}
