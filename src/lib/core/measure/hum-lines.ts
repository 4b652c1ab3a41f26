import type { FftProvider } from '../signal/fft';
import { fromPower, HARMONICS, MAINS_HZ, READINGS_RATE } from './readings';

/** Hum lies below 500 Hz: a rate of 2 kHz holds it. */
const RATE = 2000;
const FACTOR = READINGS_RATE / RATE;
/** Taps of the low pass, a windowed sinc: 60 dB down from 1 500 Hz on, which folds onto 500. */
const LOW_PASS_TAPS = 145;
const CUT_OFF_HZ = 1000;
/** Samples before and after a second that its low pass reaches for. */
export const HUM_REACH = (LOW_PASS_TAPS - 1) / 2;
const WINDOW_SECONDS = 2;
const TRANSFORM = 4096;
const BIN_HZ = RATE / TRANSFORM;
/** Mains wander by a fifth of a hertz, its harmonics by more: a line is its strongest bin within so many, and its window's width. */
const LINE_BINS = 2;
const WANDER_SHARE = 0.004;
/** Bins beside a line, from and to, whose median tells what is there without it. */
const BESIDE_BINS = [7, 16] as const;

/** Takes the levels of the mains' harmonics every two seconds. */
export interface HumReader {
	/** @param samples a second, with `HUM_REACH` more on both sides @returns whether a window ended, and the levels are set */
	read(samples: Float32Array, from: number, hum: Uint8Array, nextToHum: Uint8Array): boolean;
}

export function createHumReader(provider: FftProvider): HumReader {
	const fft = provider(TRANSFORM);
	const lowPass = lowPassTaps();
	const slow = new Float32Array(RATE * WINDOW_SECONDS);
	const window = Float32Array.from(
		slow,
		(_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / (RATE * WINDOW_SECONDS))
	);
	const scale = 2 / (TRANSFORM * window.reduce((sum, weight) => sum + weight * weight, 0));
	const work = new Float32Array(TRANSFORM);
	const powers = new Float64Array(TRANSFORM / 2);
	let filled = 0;
	return {
		read(samples, from, hum, nextToHum) {
			for (let i = 0; i < RATE; i++) {
				const first = from + i * FACTOR - HUM_REACH;
				const last = first + LOW_PASS_TAPS - 1;
				let sum = lowPass[HUM_REACH]! * samples[first + HUM_REACH]!;
				// It is the same from both ends.
				for (let tap = 0; tap < HUM_REACH; tap++) sum += lowPass[tap]! * (samples[first + tap]! + samples[last - tap]!);
				slow[filled++] = sum;
			}
			if (filled < slow.length) return false;
			filled = 0;
			for (let i = 0; i < slow.length; i++) work[i] = slow[i]! * window[i]!;
			work.fill(0, slow.length);
			fft.forward(work, work);
			for (let bin = 1; bin < powers.length; bin++)
				powers[bin] = scale * (work[2 * bin]! ** 2 + work[2 * bin + 1]! ** 2);
			let line = 0;
			for (const mains of MAINS_HZ)
				for (let harmonic = 1; harmonic <= HARMONICS; harmonic++, line++) {
					const [own, beside] = lineAt(powers, mains * harmonic);
					hum[line] = fromPower(own);
					nextToHum[line] = fromPower(beside);
				}
			return true;
		}
	};
}

function lineAt(powers: Float64Array, hz: number): readonly [line: number, beside: number] {
	const centre = Math.round(hz / BIN_HZ);
	const wander = Math.ceil((WANDER_SHARE * hz) / BIN_HZ);
	let strongest = centre;
	for (let bin = centre - wander; bin <= centre + wander; bin++) if (powers[bin]! > powers[strongest]!) strongest = bin;
	let line = 0;
	for (let bin = strongest - LINE_BINS; bin <= strongest + LINE_BINS; bin++) line += powers[bin]!;
	const beside: number[] = [];
	for (let away = BESIDE_BINS[0]; away <= BESIDE_BINS[1]; away++)
		beside.push(powers[strongest - away]!, powers[strongest + away]!);
	beside.sort((a, b) => a - b);
	return [line, (2 * LINE_BINS + 1) * beside[beside.length >> 1]!];
}

/** A sinc under a Blackman window; textbook practice. */
function lowPassTaps(): Float32Array {
	const taps = Float32Array.from({ length: LOW_PASS_TAPS }, (_, i) => {
		const away = i - HUM_REACH;
		const x = (2 * CUT_OFF_HZ * away) / READINGS_RATE;
		const sinc = away === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
		const phase = (2 * Math.PI * i) / (LOW_PASS_TAPS - 1);
		return sinc * (0.42 - 0.5 * Math.cos(phase) + 0.08 * Math.cos(2 * phase));
	});
	const sum = taps.reduce((total, tap) => total + tap, 0);
	return taps.map((tap) => tap / sum);
}
