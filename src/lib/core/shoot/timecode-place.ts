import { clockTimes } from '../gather/clock-days';
import { secondsToFlicks } from '../time/flicks';
import type { Clip, PlacedClip } from './clip';

/**
 * Where a clip would lie by its timecode, if its clock ran with those of the others: with the reference's, where that has one.
 * @param placed clips of one line-up
 * @returns flicks; nothing where timecode is missing, nothing else was recorded then, or its own device recorded another clip
 */
export function timecodePlace(
	clip: Clip,
	placed: readonly PlacedClip[],
	referenceDeviceId: string | undefined
): number | undefined {
	const timed = placed.filter(({ clockSeconds }) => clockSeconds !== undefined);
	const onto = timed.find(({ deviceId }) => deviceId === referenceDeviceId) ?? timed[0];
	if (clip.clockSeconds === undefined || !onto) return undefined;
	const [own, other] = clockTimes(
		[clip, onto].map(({ deviceId, clockSeconds, recordedAt }) => ({
			deviceId,
			clockSeconds: clockSeconds!,
			recordedAt
		}))
	);
	const startFlicks = Math.round(onto.placement.startFlicks + secondsToFlicks(own! - other!));
	const same = placed.filter(
		(one) =>
			one.id !== clip.id &&
			one.placement.startFlicks < startFlicks + clip.durationFlicks &&
			startFlicks < one.placement.startFlicks + one.durationFlicks
	);
	// One device cannot record two clips at once.
	return same.length > 0 && same.every(({ deviceId }) => deviceId !== clip.deviceId) ? startFlicks : undefined;
}
