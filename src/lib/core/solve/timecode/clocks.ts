import { median } from '../../fitting/median';
import { CLOCK_AGREEMENT_SECONDS, HOURS_TOLERANCE_SECONDS } from '../../limits/solve';
import type { AlignableClip, ClipClock } from '../clip';
import type { ClockFault, DeviceClock, Placed } from '../alignment';

const FRAME_RATES: readonly number[] = [
	24_000 / 1001,
	24,
	25,
	30_000 / 1001,
	30,
	48_000 / 1001,
	48,
	50,
	60_000 / 1001,
	60
];

/**
 * How much later b's clock stands than a's, over midnight: at most half a day either way.
 */
export function clockLag(a: ClipClock, b: ClipClock): number {
	const day = Math.min(a.daySeconds, b.daySeconds);
	const lag = b.seconds - a.seconds;
	return lag - day * Math.round(lag / day);
}

/** Compares each device's timecode with where sound has put its clips on one line-up. */
export function judgeClocks(clips: readonly AlignableClip[], placed: readonly Placed[]): readonly DeviceClock[] {
	const origin = placed.find(({ clip }) => clips[clip]!.clock);
	if (!origin) return [];
	const originClock = clips[origin.clip]!.clock!;
	// Line-up time less timecode, with the first clip's timecode as the zero of both.
	const offsetOf = ({ clip, startSeconds }: Placed) =>
		startSeconds - origin.startSeconds - clockLag(originClock, clips[clip]!.clock!);
	const byDevice = new Map<string, Placed[]>();
	for (const one of placed) {
		const { clock, device } = clips[one.clip]!;
		if (clock) byDevice.set(device, [...(byDevice.get(device) ?? []), one]);
	}
	const offsets = new Map([...byDevice].map(([device, own]) => [device, median(own.map(offsetOf))]));
	const common = mostCommon([...offsets.values()]);
	return [...byDevice].map(([device, own]) => {
		const offset = offsets.get(device)!;
		const agrees = Math.abs(offset - common) <= CLOCK_AGREEMENT_SECONDS;
		const base = origin.startSeconds - originClock.seconds;
		const fault = agrees
			? undefined
			: faultOf(
					own.map(({ clip }) => clips[clip]!.clock!),
					own.map((one) => common - offsetOf(one)),
					common - offset
				);
		return {
			device,
			// Read at its true rate, a clock with the wrong flag agrees with the others.
			offsetSeconds: base + (fault?.kind === 'rate flag' ? common : offset),
			agrees,
			aheadSeconds: common - offset,
			clips: own.length,
			...(fault ? { fault } : {})
		};
	});
}

/** The value with the most others near it; of equals the one nearest the middle. */
function mostCommon(values: readonly number[]): number {
	const neighbours = (value: number) => values.filter((one) => Math.abs(one - value) <= CLOCK_AGREEMENT_SECONDS).length;
	return [...values].sort((a, b) => neighbours(b) - neighbours(a) || Math.abs(a) - Math.abs(b))[0] ?? 0;
}

/** @param aheads how much each clip's clock is ahead @param ahead the device's, in the middle */
function faultOf(clocks: readonly ClipClock[], aheads: readonly number[], ahead: number): ClockFault {
	const hours = Math.round(ahead / 3600);
	if (hours !== 0 && Math.abs(ahead - hours * 3600) <= HOURS_TOLERANCE_SECONDS) return { kind: 'hours', hours };
	for (const flagged of FRAME_RATES) {
		if (!clocks.every((clock) => Math.abs(clock.frameSeconds * flagged - 1) < 1e-4)) continue;
		for (const counted of FRAME_RATES) {
			const fault: ClockFault = { kind: 'rate flag', flagged, counted };
			const fits = clocks.every(
				(clock, index) =>
					Math.abs(clock.seconds - trueSeconds(clock, fault) - aheads[index]!) <= CLOCK_AGREEMENT_SECONDS
			);
			if (counted !== flagged && fits) return fault;
		}
	}
	return { kind: 'other' };
}

/** A clock's time with its fault put right, as far as that is in how frames are counted. */
export function trueSeconds(clock: ClipClock, fault: ClockFault | undefined): number {
	return fault?.kind === 'rate flag' ? (clock.seconds * fault.flagged) / fault.counted : clock.seconds;
}

/** A fault in words. */
export function clockWords({ agrees, aheadSeconds, fault }: DeviceClock): string {
	if (agrees) return 'Its timecode agrees with the others.';
	const direction = aheadSeconds > 0 ? 'ahead' : 'behind';
	switch (fault?.kind) {
		case 'hours': {
			const hours = Math.abs(fault.hours);
			return hours % 24 === 0
				? `Its timecode is ${hours / 24} day${hours === 24 ? '' : 's'} ${direction}.`
				: `Its timecode is ${hours} hour${hours === 1 ? '' : 's'} ${direction}.`;
		}
		case 'rate flag':
			return `Its timecode was counted at ${rateWords(fault.counted)} frames a second, but is flagged as ${rateWords(fault.flagged)}.`;
		default:
			return `Its timecode is ${durationWords(Math.abs(aheadSeconds))} ${direction}.`;
	}
}

function rateWords(rate: number): string {
	return Number.isInteger(rate) ? `${rate}` : rate.toFixed(rate > 40 ? 2 : rate < 24 ? 3 : 2);
}

function durationWords(seconds: number): string {
	const hours = Math.floor(seconds / 3600);
	const minutes = Math.floor((seconds % 3600) / 60);
	const rest = (seconds % 60).toFixed(2);
	return [hours > 0 ? `${hours} h` : '', hours > 0 || minutes > 0 ? `${minutes} min` : '', `${rest} s`]
		.filter((part) => part !== '')
		.join(' ');
}
