import { nearestAttack } from '../../core/features/attack';
import { type Clip, partAt } from '../../core/shoot/shoot';
import { FLICKS_PER_SECOND, samplesToFlicks } from '../../core/time/flicks';
import { fetchListening, listeningFileOf, LISTENING_RATE } from './listening-sound';

/** A mark set by hand is meant for a sound this near. */
const REACH_SECONDS = 0.06;

/** The attack nearest to a media time of a clip, as its sound tells; the time itself where nothing rises near it. */
export async function attackNear(clip: Clip, mediaFlicks: number): Promise<number> {
	const part = partAt(clip, mediaFlicks);
	const sound = part?.sound;
	if (!part || !sound?.listeningSamples) return mediaFlicks;
	const zero = part.offsetFlicks + sound.startFlicks;
	const middle = Math.round(((mediaFlicks - zero) * LISTENING_RATE) / FLICKS_PER_SECOND);
	const reach = REACH_SECONDS * LISTENING_RATE;
	const from = Math.max(0, middle - reach);
	const to = Math.min(sound.listeningSamples, middle + reach);
	if (to - from < reach / 4) return mediaFlicks;
	const { pcm } = await fetchListening(listeningFileOf(part), from, to);
	const mono = new Float32Array(to - from);
	for (let i = 0; i < mono.length; i++)
		for (let channel = 0; channel < sound.channels; channel++) mono[i]! += pcm[i * sound.channels + channel]!;
	const attack = nearestAttack(mono, LISTENING_RATE);
	return attack === undefined ? mediaFlicks : zero + samplesToFlicks(from + attack, LISTENING_RATE);
}
