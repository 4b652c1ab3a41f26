/** A channel that holds the same as another of its file. */
export interface Twin {
	readonly channel: number;
	readonly sameAs: number;
	/** Upside down. */
	readonly isInverted: boolean;
}

/** Every so many-th sample tells as much. */
const STEP = 8;
/** What two channels do not share, of their power: 30 dB under it they are one sound, at whatever level. */
const MAX_DIFFERENCE = 1e-3;

/** Finds channels of a sound that hold the same, also at another level or upside down, as it comes. */
export function createTwinFinder(channels: number): {
	add(interleaved: Float32Array): void;
	found(): readonly Twin[];
} {
	const products = new Float64Array(channels * channels);
	return {
		add(interleaved) {
			const stride = STEP * channels;
			for (let at = 0; at + channels <= interleaved.length; at += stride)
				for (let a = 0; a < channels; a++) {
					const value = interleaved[at + a]!;
					for (let b = 0; b <= a; b++)
						products[a * channels + b] = products[a * channels + b]! + value * interleaved[at + b]!;
				}
		},
		found() {
			const power = (channel: number) => products[channel * channels + channel]!;
			const twins: Twin[] = [];
			for (let channel = 1; channel < channels; channel++)
				for (let other = 0; other < channel; other++) {
					const product = products[channel * channels + other]!;
					const both = power(channel) * power(other);
					if (both === 0 || 1 - product ** 2 / both > MAX_DIFFERENCE) continue;
					twins.push({ channel, sameAs: other, isInverted: product < 0 });
					break;
				}
			return twins;
		}
	};
}

/** Channels that hold the same in each of several sounds of one device. */
export function twinsInAll(sounds: readonly (readonly Twin[])[]): readonly Twin[] {
	const [first = [], ...others] = sounds;
	return first.filter(({ channel, sameAs }) =>
		others.every((own) => own.some((one) => one.channel === channel && one.sameAs === sameAs))
	);
}
