import type { ClipPart } from '../../core/shoot/clip';
import { toTimeline } from '../../core/shoot/placement';
import { type PlacedClip } from '../../core/shoot/clip';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';

/** Rate of the listening sound and of the page's audio. */
export const LISTENING_RATE = 48_000;
const FLICKS_PER_SAMPLE = FLICKS_PER_SECOND / LISTENING_RATE;

/** What is asked of a listening file: its identity, and how its samples lie. */
export interface ListeningFile {
	readonly identity: string;
	readonly channels: number;
	/** 32 bits a sample, not 16. */
	readonly isDeep: boolean;
}

/** Interleaved samples, and what makes full scale of them. */
export interface ListeningStretch {
	readonly pcm: Int16Array | Int32Array;
	readonly fullScale: number;
}

/** Samples `[from, to)` of a listening file. */
export async function fetchListening(
	{ identity, channels, isDeep }: ListeningFile,
	from: number,
	to: number,
	signal?: AbortSignal
): Promise<ListeningStretch> {
	const bytes = (isDeep ? 4 : 2) * channels;
	const response = await fetch(`/media/${identity}/${isDeep ? 'deep-listening' : 'listening'}`, {
		headers: { range: `bytes=${from * bytes}-${to * bytes - 1}` },
		...(signal ? { signal } : {})
	});
	if (!response.ok) throw new Error('The sound is not ready yet.');
	const buffer = await response.arrayBuffer();
	return isDeep
		? { pcm: new Int32Array(buffer), fullScale: 2 ** 31 }
		: { pcm: new Int16Array(buffer), fullScale: 2 ** 15 };
}

export function listeningFileOf({ identity, sound }: ClipPart): ListeningFile {
	return { identity, channels: sound?.channels ?? 0, isDeep: sound?.isDeep ?? false };
}

/**
 * A device's sound over a stretch of the line-up, clock error taken out, at whole samples of the line-up.
 * @returns a row a channel; silence where the device does not record; nothing where it has no sound at all there
 */
export async function deviceSound(
	clips: readonly PlacedClip[],
	fromFlicks: number,
	samples: number,
	signal: AbortSignal
): Promise<Float32Array<ArrayBuffer>[] | undefined> {
	const toFlicks = fromFlicks + samples * FLICKS_PER_SAMPLE;
	let rows: Float32Array<ArrayBuffer>[] | undefined;
	for (const clip of clips) {
		for (const part of clip.parts) {
			const { sound } = part;
			if (!sound?.listeningSamples) continue;
			const rateFactor = 1 + clip.placement.ratePpm * 1e-6;
			const soundBegins = toTimeline(clip.placement, part.offsetFlicks + sound.startFlicks);
			const soundEnds = soundBegins + sound.listeningSamples * FLICKS_PER_SAMPLE * rateFactor;
			if (soundEnds <= fromFlicks || soundBegins >= toFlicks) continue;
			rows ??= Array.from({ length: sound.channels }, () => new Float32Array(samples));
			const firstOut = Math.max(0, Math.ceil((soundBegins - fromFlicks) / FLICKS_PER_SAMPLE));
			const endOut = Math.min(samples, Math.ceil((soundEnds - fromFlicks) / FLICKS_PER_SAMPLE));
			const position = (fromFlicks - soundBegins) / (FLICKS_PER_SAMPLE * rateFactor);
			const step = 1 / rateFactor;
			const fetchFrom = Math.max(0, Math.floor(position + firstOut * step) - 1);
			const fetchTo = Math.min(sound.listeningSamples, Math.ceil(position + endOut * step) + 3);
			if (fetchTo <= fetchFrom) continue;
			const stretch = await fetchListening(listeningFileOf(part), fetchFrom, fetchTo, signal);
			for (const [channel, row] of rows.entries()) {
				if (channel < sound.channels)
					resample(stretch, sound.channels, channel, position - fetchFrom, step, row, firstOut, endOut);
			}
		}
	}
	return rows;
}

/** Cubic interpolation (Catmull and Rom 1974); for tens of ppm its error stays below -90 dB. */
function resample(
	{ pcm, fullScale }: ListeningStretch,
	channels: number,
	channel: number,
	position: number,
	step: number,
	out: Float32Array,
	from: number,
	to: number
): void {
	const count = pcm.length / channels;
	const at = (index: number) => (index >= 0 && index < count ? pcm[index * channels + channel]! : 0);
	for (let i = from; i < to; i++) {
		const place = position + i * step;
		const whole = Math.floor(place);
		const t = place - whole;
		const p1 = at(whole);
		if (t < 1e-9) {
			out[i] = p1 / fullScale;
			continue;
		}
		const p0 = at(whole - 1);
		const p2 = at(whole + 1);
		const p3 = at(whole + 2);
		out[i] =
			(p1 + 0.5 * t * (p2 - p0 + t * (2 * p0 - 5 * p1 + 4 * p2 - p3 + t * (3 * (p1 - p2) + p3 - p0)))) / fullScale;
	}
}
