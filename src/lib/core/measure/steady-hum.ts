import { LINE_DB, STEADY_SHARE } from '../limits/measure';
import { shareOfBytes } from '../signal/byte-shares';
import type { ChannelReadings } from './channel-readings';
import { decibelsOf, HARMONICS, HUM_LINES, MAINS_HZ, POWER_OF_BYTE } from './readings';

export interface SteadyHum {
	/** Of all harmonics of the stronger mains over what lies beside them, in dB of full scale. */
	readonly levelDb: number;
	readonly mainsHz: number;
	/** Whether at least one of them stands out. */
	readonly isHeard: boolean;
	/** Frame of the line-up where it is loudest. */
	readonly loudestFrame: number;
}

/** Mains hum that is there all the time, in pauses too. @returns nothing where no window was read */
export function steadyHum({ hum, nextToHum, frames, seconds }: ChannelReadings): SteadyHum | undefined {
	const steady = MAINS_HZ.map((mainsHz, mains) => {
		let [power, standing] = [0, 0];
		for (let harmonic = 0; harmonic < HARMONICS; harmonic++) {
			const line = mains * HARMONICS + harmonic;
			const own = shareOfBytes(everyRow(hum, line), STEADY_SHARE);
			const beside = shareOfBytes(everyRow(nextToHum, line), STEADY_SHARE);
			power += Math.max(0, POWER_OF_BYTE[own]! - POWER_OF_BYTE[beside]!);
			if (decibelsOf(own) - decibelsOf(beside) >= LINE_DB) standing++;
		}
		return { mainsHz, mains, power, standing };
	});
	const [strongest] = steady.sort((a, b) => b.standing - a.standing || b.power - a.power);
	if (!strongest || strongest.power <= 0) return undefined;
	let loudest = 0;
	let greatest = -1;
	for (let second = 0; second < seconds; second++) {
		let power = 0;
		for (let harmonic = 0; harmonic < HARMONICS; harmonic++)
			power += POWER_OF_BYTE[hum[second * HUM_LINES + strongest.mains * HARMONICS + harmonic]!]!;
		if (power > greatest) {
			greatest = power;
			loudest = second;
		}
	}
	return {
		levelDb: 10 * Math.log10(strongest.power),
		mainsHz: strongest.mainsHz,
		isHeard: strongest.standing > 0,
		loudestFrame: frames[loudest]!
	};
}

/** One line of all windows; seconds in which none ended hold zeros, which no share counts. */
function everyRow(rows: Uint8Array, line: number): Uint8Array {
	const own = new Uint8Array(rows.length / HUM_LINES);
	for (let at = 0; at < own.length; at++) own[at] = rows[at * HUM_LINES + line]!;
	return own;
}
