import { type PlacedClip, placedEnd } from '../shoot/clip';
import { toTimeline } from '../shoot/placement';
import { FLICKS_PER_SECOND } from '../time/flicks';

/** Heard by several within so much, it is one event: sound needs it for 17 m. */
const SAME_SOUND_FLICKS = FLICKS_PER_SECOND / 20;

/**
 * Where sync is best looked at first: the earliest of the sharp sounds that most clips heard; without any, the first moment
 * at which most clips with sound run. @returns nothing where no two clips with sound run together
 */
export function provableMoment(placed: readonly PlacedClip[]): number | undefined {
	const sounding = placed.filter((clip) => clip.parts.some((part) => part.sound));
	return sharedSound(sounding) ?? busiestMoment(sounding);
}

function sharedSound(clips: readonly PlacedClip[]): number | undefined {
	const heard = clips
		.flatMap((clip) =>
			clip.sharpSounds.map((flicks) => ({ flicks: toTimeline(clip.placement, flicks), device: clip.deviceId }))
		)
		.sort((a, b) => a.flicks - b.flicks);
	let best: { readonly flicks: number; readonly devices: number } | undefined;
	for (let from = 0; from < heard.length; from++) {
		const devices = new Set<string>();
		for (let to = from; to < heard.length && heard[to]!.flicks - heard[from]!.flicks < SAME_SOUND_FLICKS; to++)
			devices.add(heard[to]!.device);
		if (devices.size > Math.max(1, best?.devices ?? 1)) best = { flicks: heard[from]!.flicks, devices: devices.size };
	}
	return best && Math.round(best.flicks);
}

function busiestMoment(clips: readonly PlacedClip[]): number | undefined {
	const edges = clips
		.flatMap((clip) => [
			{ flicks: clip.placement.startFlicks, step: 1 },
			{ flicks: placedEnd(clip), step: -1 }
		])
		.sort((a, b) => a.flicks - b.flicks || a.step - b.step);
	let [running, most, at] = [0, 1, undefined as number | undefined];
	for (const { flicks, step } of edges) {
		running += step;
		if (running > most) [most, at] = [running, Math.round(flicks)];
	}
	return at;
}
