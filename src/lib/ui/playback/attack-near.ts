import { nearestAttack } from '../../core/features/attack';
import { type Clip, partAt } from '../../core/shoot/clip';
import { FLICKS_PER_SECOND, samplesToFlicks, secondsToFlicks } from '../../core/time/flicks';
import { fetchListening, listeningFileOf, LISTENING_RATE } from './listening-sound';

/** A mark set by hand is meant for a sound this near. */
const REACH_SECONDS = 0.06;
/** What is seen is heard so much earlier at most, by an inexact mark, and so much later: 100 m of air. */
const EARLIEST_SECONDS = 0.02;
const LATEST_SECONDS = 0.3;

/** The attack nearest to a media time of a clip, as its sound tells; the time itself where nothing rises near it. */
export async function attackNear(clip: Clip, mediaFlicks: number): Promise<number> {
	const reach = secondsToFlicks(REACH_SECONDS);
	return (await attackIn(clip, mediaFlicks - reach, mediaFlicks + reach)) ?? mediaFlicks;
}

/** When what is seen at a media time is heard in the same clip; nothing where no sound rises after it. */
export async function heardAfter(clip: Clip, seenFlicks: number): Promise<number | undefined> {
	return attackIn(clip, seenFlicks - secondsToFlicks(EARLIEST_SECONDS), seenFlicks + secondsToFlicks(LATEST_SECONDS));
}

async function attackIn(clip: Clip, fromFlicks: number, toFlicks: number): Promise<number | undefined> {
	const part = partAt(clip, (fromFlicks + toFlicks) / 2);
	const sound = part?.sound;
	const file = part && listeningFileOf(part);
	if (!part || !sound || !file) return undefined;
	const zero = part.offsetFlicks + sound.startFlicks;
	const sampleAt = (flicks: number) => Math.round(((flicks - zero) * LISTENING_RATE) / FLICKS_PER_SECOND);
	const from = Math.max(0, sampleAt(fromFlicks));
	const to = Math.min(sound.samples, sampleAt(toFlicks));
	if (to - from < (sampleAt(toFlicks) - sampleAt(fromFlicks)) / 4) return undefined;
	const { pcm } = await fetchListening(file, from, to, [...Array(sound.channels).keys()]);
	const mono = new Float32Array(to - from);
	for (let i = 0; i < mono.length; i++)
		for (let channel = 0; channel < sound.channels; channel++) mono[i]! += pcm[i * sound.channels + channel]!;
	const attack = nearestAttack(mono, LISTENING_RATE);
	return attack === undefined ? undefined : zero + samplesToFlicks(from + attack, LISTENING_RATE);
}
