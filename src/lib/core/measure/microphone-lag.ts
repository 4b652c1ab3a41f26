import { median } from '../fitting/median';
import { topOfPeak } from '../fitting/top-of-peak';
import { MICROPHONE_LAG, POLARITY } from '../limits/measure';
import { type FftProvider, fftSizeFor } from '../signal/fft';

/** How one microphone hears somebody against another that is close to him. */
export interface MicrophoneLag {
	/** Seconds by which it hears him later. */
	readonly laterSeconds: number;
	/** Its polarity is the other one's turned; left out where that cannot be told. */
	readonly isInverted?: boolean;
}

/**
 * How much later other microphones hear what a close one hears, by cross-correlation with the phase transform (Knapp and Carter
 * 1976), and with which polarity.
 * @param close mono in [-1, 1], where one person speaks alone
 * @param others of the same stretch and length
 * @returns one for each; nothing where no lag stands out
 */
export function microphoneLags(
	close: Float32Array,
	others: readonly Float32Array[],
	sampleRate: number,
	provider: FftProvider
): readonly (MicrophoneLag | undefined)[] {
	const most = Math.ceil(MICROPHONE_LAG.mostSeconds * sampleRate);
	const fft = provider(fftSizeFor(close.length + most + 1));
	const spectrum = (samples: Float32Array) => {
		const padded = new Float32Array(fft.size);
		padded.set(samples);
		fft.forward(padded, padded);
		return padded;
	};
	const own = spectrum(close);
	return others.map((samples) => {
		const theirs = spectrum(samples);
		const lags = new Float32Array(fft.size);
		cross(own, theirs, lags, bins(MICROPHONE_LAG.bandHz, sampleRate, fft.size), true);
		fft.inverse(lags, lags);
		const at = (lag: number) => Math.abs(lags[(lag + fft.size) % fft.size]!);
		let [best, power] = [0, 0];
		for (let lag = -most; lag <= most; lag++) {
			if (at(lag) > at(best)) best = lag;
			power += at(lag) ** 2;
		}
		if (at(best) === 0 || !(at(best) >= MICROPHONE_LAG.leastHeight * Math.sqrt(power / (2 * most + 1))))
			return undefined;
		const laterSeconds = (best + topOfPeak(at(best - 1), at(best), at(best + 1))) / sampleRate;
		cross(own, theirs, lags, bins(POLARITY.bandHz, sampleRate, fft.size), false);
		fft.inverse(lags, lags);
		const isInverted = signNear(lags, best, Math.round(POLARITY.nearSeconds * sampleRate));
		return { laterSeconds, ...(isInverted === undefined ? {} : { isInverted }) };
	});
}

/** @returns first and last bin of a band */
function bins([from, to]: readonly [number, number], sampleRate: number, size: number): readonly [number, number] {
	const last = size / 2 - 1;
	return [Math.max(1, Math.round((from * size) / sampleRate)), Math.min(last, Math.round((to * size) / sampleRate))];
}

/** The cross-spectrum of two packed spectra within a band, whitened or not; nothing beside it. */
function cross(
	a: Float32Array,
	b: Float32Array,
	out: Float32Array,
	[first, last]: readonly [number, number],
	isWhitened: boolean
): void {
	out.fill(0);
	for (let bin = first; bin <= last; bin++) {
		const [ar, ai, br, bi] = [a[2 * bin]!, a[2 * bin + 1]!, b[2 * bin]!, b[2 * bin + 1]!];
		const [re, im] = [ar * br + ai * bi, ar * bi - ai * br];
		const scale = isWhitened ? 1 / Math.max(1e-20, Math.hypot(re, im)) : 1;
		out[2 * bin] = re * scale;
		out[2 * bin + 1] = im * scale;
	}
}

function signNear(correlation: Float32Array, lag: number, reach: number): boolean | undefined {
	let [most, least] = [0, 0];
	for (let at = lag - reach; at <= lag + reach; at++) {
		const value = correlation[(at + correlation.length) % correlation.length]!;
		most = Math.max(most, value);
		least = Math.min(least, value);
	}
	return Math.abs(most + least) < POLARITY.leastDifference * Math.max(most, -least) ? undefined : -least > most;
}

/** What several stretches agree on; nothing where too few do. */
export function agreedLag(found: readonly (MicrophoneLag | undefined)[]): MicrophoneLag | undefined {
	const known = found.filter((one) => one !== undefined);
	const middle = median(known.map((one) => one.laterSeconds));
	const agreeing = known.filter((one) => Math.abs(one.laterSeconds - middle) <= MICROPHONE_LAG.agreesSeconds);
	const wanted = Math.max(MICROPHONE_LAG.leastAgreeing, MICROPHONE_LAG.agreeingShare * known.length);
	if (agreeing.length < wanted) return undefined;
	const votes = agreeing.filter((one) => one.isInverted !== undefined);
	const turned = votes.filter((one) => one.isInverted).length;
	const isClear = votes.length >= MICROPHONE_LAG.leastAgreeing;
	const share = turned / votes.length;
	const isInverted = !isClear
		? undefined
		: share >= POLARITY.share
			? true
			: share <= 1 - POLARITY.share
				? false
				: undefined;
	return {
		laterSeconds: median(agreeing.map((one) => one.laterSeconds)),
		...(isInverted === undefined ? {} : { isInverted })
	};
}
