import {
	BLEED_STEP_DB,
	FLOOR_STEP_DB,
	MAX_EVIDENCE,
	OVER_BLEED_DB,
	OVER_FLOOR_DB,
	UNDER_USUAL_DB,
	USUAL_SHARE
} from '../limits/people';
import { decibelsOf } from '../measure/readings';
import { type BleedModel, isKnown, learnBleed } from './bleed';
import { shareOfBytes } from '../signal/byte-shares';
import { takeApart } from './own-parts';
import { type FrameStretch, speakingStretches } from './stretches';

/** Who speaks when, person by person, in frames. */
export interface CloseSpeech {
	readonly stretches: readonly (readonly FrameStretch[])[];
	readonly model: BleedModel;
}

/**
 * Who speaks when, of people with a close microphone each, by how loud each stands in all of them.
 * @param levels power bytes (`VOICE_BANDS`) of each person's channel, as many frames each; 0 where it does not run
 */
export function closeSpeech(levels: readonly Uint8Array[]): CloseSpeech {
	const model = learnBleed(levels);
	const { own, others } = takeApart(levels, model);
	const stretches = levels.map((_, person) =>
		isKnown(model, person) || levels.length === 1
			? speakingStretches(evidenceOf(own[person]!, others[person]!, model.floorBytes[person]!))
			: []
	);
	return { stretches, model };
}

function evidenceOf(own: Uint8Array, others: Uint8Array, floorByte: number): Float32Array {
	const usual = decibelsOf(shareOfBytes(own, USUAL_SHARE));
	const least = Math.max(decibelsOf(floorByte) + OVER_FLOOR_DB, usual - UNDER_USUAL_DB);
	const evidence = new Float32Array(own.length);
	for (let frame = 0; frame < own.length; frame++) {
		const level = decibelsOf(own[frame]!);
		const overFloor = (level - least) / FLOOR_STEP_DB;
		const overBleed = (level - decibelsOf(others[frame]!) - OVER_BLEED_DB) / BLEED_STEP_DB;
		evidence[frame] = Math.max(-MAX_EVIDENCE, Math.min(MAX_EVIDENCE, overFloor, overBleed));
	}
	return evidence;
}
