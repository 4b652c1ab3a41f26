import { median } from '../fitting/median';
import { airDelayMetres } from '../shoot/air-delay';
import type { PlacedClip } from '../shoot/clip';
import type { Shoot } from '../shoot/shoot';
import { flicksToSeconds } from '../time/flicks';

/** What speaks for a device's microphone being away from where the sound is made. */
export interface AirSuggestion {
	readonly deviceId: string;
	readonly delaySeconds: number;
	readonly metres: number;
	readonly from: 'what is seen' | 'its timecode';
	/** Claps, or clips, that speak for it. */
	readonly witnesses: number;
}

/** A clap is heard after it is seen, and by so much at most: 100 m. */
const MAX_DELAY_SECONDS = 0.3;
/** Less than this is no distance that anybody would correct: 2 m. */
const MIN_DELAY_SECONDS = 0.006;
/** A mark in the picture is good to half a frame; what is heard may seem that much earlier. */
const MARK_SECONDS = 0.02;
/** Witnesses must agree within a frame. */
const AGREEING_SECONDS = 0.021;

/**
 * Suggests air delays: from claps that an editor marked in a device's picture, against the sharp sound it heard just
 * after; and from clips that sound has placed before the time that their timecode tells, by a constant.
 * @param heard when each seen mark was heard, in media time, by its identity
 */
export function suggestAirDelays(
	shoot: Shoot,
	placed: readonly PlacedClip[],
	heard: ReadonlyMap<string, number>
): readonly AirSuggestion[] {
	const seen = new Map(fromClaps(placed, heard).map((one) => [one.deviceId, one]));
	const clocked = fromTimecode(shoot, placed).filter((one) => !seen.has(one.deviceId));
	return [...seen.values(), ...clocked]
		.filter(({ delaySeconds }) => delaySeconds >= MIN_DELAY_SECONDS)
		.map((one) => ({ ...one, metres: airDelayMetres(one.delaySeconds, shoot.airCelsius) }));
}

type Found = Omit<AirSuggestion, 'metres'>;

function fromClaps(placed: readonly PlacedClip[], heard: ReadonlyMap<string, number>): readonly Found[] {
	const delays = new Map<string, number[]>();
	for (const clip of placed) {
		for (const { id, mediaFlicks, sense } of clip.syncPoints) {
			const at = heard.get(id);
			if (sense !== 'seen' || at === undefined) continue;
			const delay = flicksToSeconds(at - mediaFlicks);
			if (delay > -MARK_SECONDS && delay < MAX_DELAY_SECONDS)
				delays.set(clip.deviceId, [...(delays.get(clip.deviceId) ?? []), delay]);
		}
	}
	return agreed(delays, 'what is seen');
}

/** Of a clock that runs with the reference's; a whole hour or a rate flag off is another matter. */
function fromTimecode(shoot: Shoot, placed: readonly PlacedClip[]): readonly Found[] {
	const offsets = new Map<string, number[]>();
	for (const clip of placed) {
		if (clip.placement.method !== 'audio' || clip.clockSeconds === undefined) continue;
		const offset = flicksToSeconds(clip.placement.startFlicks) - clip.clockSeconds;
		offsets.set(clip.deviceId, [...(offsets.get(clip.deviceId) ?? []), offset]);
	}
	const reference = shoot.lineUps.find((one) => one.id === placed[0]?.placement.lineUpId)?.referenceDeviceId;
	const own = offsets.get(reference ?? '');
	if (!own) return [];
	const zero = median(own);
	const delays = new Map(
		[...offsets]
			.filter(([deviceId]) => deviceId !== reference)
			// A far microphone hears late: by its sound the clip was placed too early.
			.map(([deviceId, all]) => [deviceId, all.map((offset) => zero - offset)] as const)
	);
	// Labels are whole frames: less than one and a half says nothing.
	return agreed(delays, 'its timecode').filter(
		({ delaySeconds }) => delaySeconds > 3 * MARK_SECONDS && delaySeconds < MAX_DELAY_SECONDS
	);
}

function agreed(delays: ReadonlyMap<string, readonly number[]>, from: Found['from']): readonly Found[] {
	return [...delays].flatMap(([deviceId, all]): Found[] => {
		const middle = median(all);
		const agreeing = all.filter((delay) => Math.abs(delay - middle) <= AGREEING_SECONDS);
		if (2 * agreeing.length <= all.length) return [];
		return [{ deviceId, delaySeconds: median(agreeing), from, witnesses: agreeing.length }];
	});
}
