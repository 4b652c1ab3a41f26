import { type Rational, ratePerSecond } from './rational';

/** Frames are counted at the whole rate above the true one: 30 for 29.97. */
export function timecodeBase(rate: Rational): number {
	return Math.round(ratePerSecond(rate));
}

/**
 * The label of a frame, hours:minutes:seconds:frames, with a semicolon for drop-frame.
 * Source: SMPTE ST 12-1 (from memory): at 29.97 drop-frame the labels 0 and 1 (0 to 3 at 59.94) are left out each
 * minute that is not a tenth.
 * @param frame counted from 00:00:00:00; negative counts get a minus sign
 */
export function timecodeOfFrame(frame: number, rate: Rational, dropFrame = false): string {
	const base = timecodeBase(rate);
	const sign = frame < 0 ? '-' : '';
	let count = Math.abs(frame);
	if (dropFrame) {
		const drop = Math.round(base / 15);
		const perTenMinutes = base * 600 - drop * 9;
		const perMinute = base * 60 - drop;
		const tens = Math.floor(count / perTenMinutes);
		const rest = count % perTenMinutes;
		count += drop * 9 * tens + (rest > drop ? drop * Math.floor((rest - drop) / perMinute) : 0);
	}
	const two = (value: number) => `${value}`.padStart(2, '0');
	const seconds = Math.floor(count / base);
	return `${sign}${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}${dropFrame ? ';' : ':'}${two(count % base)}`;
}

/**
 * The frame a label stands for.
 * @returns nothing when the text is no timecode, or a label that drop-frame leaves out
 */
export function frameOfTimecode(text: string, rate: Rational, dropFrame = /[;,]\d+$/.test(text)): number | undefined {
	const match = /^(-?)(\d{1,3}):([0-5]?\d):([0-5]?\d)[:;,.](\d{1,3})$/.exec(text.trim());
	if (!match) return undefined;
	const base = timecodeBase(rate);
	const [hours, minutes, seconds, frames] = match.slice(2).map(Number) as [number, number, number, number];
	if (frames >= base) return undefined;
	const drop = dropFrame ? Math.round(base / 15) : 0;
	if (drop > 0 && seconds === 0 && frames < drop && minutes % 10 !== 0) return undefined;
	const totalMinutes = hours * 60 + minutes;
	const count = (totalMinutes * 60 + seconds) * base + frames - drop * (totalMinutes - Math.floor(totalMinutes / 10));
	return match[1] ? -count : count;
}

/** Frames in 24 hours of labels: 2 589 408 at 29.97 drop-frame (SMPTE ST 12-1; memory). */
export function framesOfDay(rate: Rational, dropFrame: boolean): number {
	const base = timecodeBase(rate);
	const drop = dropFrame ? Math.round(base / 15) : 0;
	return base * 86_400 - drop * (1440 - 144);
}
