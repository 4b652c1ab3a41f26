import { FLICKS_PER_SECOND } from '../time/flicks';
import type { Placement } from './placement';
import type { PlacedClip } from './clip';

/**
 * Speed of sound in air. @param celsius air temperature @returns metres a second
 * Source: Cramer 1993 gives 331.45 at 0 °C and the ideal-gas root law (handbook values, from memory); 343.2 at 20 °C.
 */
export function soundSpeed(celsius: number): number {
	return 331.3 * Math.sqrt(1 + celsius / 273.15);
}

/** Time that sound needs for a way through the air, in whole flicks. @param metres may be below zero, for a closer one */
export function airDelayFlicks(metres: number, celsius: number): number {
	return Math.round((metres / soundSpeed(celsius)) * FLICKS_PER_SECOND);
}

export function airDelayMetres(delaySeconds: number, celsius: number): number {
	return delaySeconds * soundSpeed(celsius);
}

/**
 * Sound and picture of a device part by its air delay. What was placed by its sound has the sound where it belongs, and
 * its picture would show everything too early; what was placed by a clock or by what is seen, the other way round.
 */
function isPlacedBySound({ method }: Placement): boolean {
	return method === 'audio' || method === 'hand';
}

/** Where a clip's sound lies. */
export function asSound(clip: PlacedClip): PlacedClip {
	const { placement } = clip;
	return placement.airFlicks === 0 || isPlacedBySound(placement) ? clip : shifted(clip, -placement.airFlicks);
}

/** Where a clip's picture lies. */
export function asPicture(clip: PlacedClip): PlacedClip {
	const { placement } = clip;
	return placement.airFlicks === 0 || !isPlacedBySound(placement) ? clip : shifted(clip, placement.airFlicks);
}

function shifted(clip: PlacedClip, flicks: number): PlacedClip {
	return { ...clip, placement: { ...clip.placement, startFlicks: clip.placement.startFlicks + flicks } };
}
