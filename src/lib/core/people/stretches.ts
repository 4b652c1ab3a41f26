import { BRIDGED_SECONDS, EVIDENCE_WEIGHT, SHORTEST_SECONDS, SILENT_SECONDS, SPEAKING_SECONDS } from '../limits/people';
import { FRAME_SECONDS } from '../measure/readings';

/** Frames `[from, to)` in which somebody speaks. */
export interface FrameStretch {
	readonly from: number;
	readonly to: number;
	/** Mean evidence of a frame. */
	readonly evidence: number;
}

/**
 * Where somebody speaks: the likeliest course of speaking and being silent (Viterbi 1967), pauses within it bridged.
 * @param evidence for his speaking in each frame
 */
export function speakingStretches(evidence: Float32Array): readonly FrameStretch[] {
	return bridged(likeliestStretches(evidence), evidence).filter(
		({ from, to }) => (to - from) * FRAME_SECONDS >= SHORTEST_SECONDS
	);
}

function likeliestStretches(evidence: Float32Array): readonly (readonly [from: number, to: number])[] {
	const begins = Math.log(FRAME_SECONDS / SILENT_SECONDS);
	const ends = Math.log(FRAME_SECONDS / SPEAKING_SECONDS);
	/** Whether the best way to each state came from the other: bit 0 for silence, bit 1 for speech. */
	const came = new Uint8Array(evidence.length);
	let silence = 0;
	let speech = begins;
	for (let frame = 0; frame < evidence.length; frame++) {
		const weight = EVIDENCE_WEIGHT * evidence[frame]!;
		const fromSpeech = speech + ends > silence;
		const fromSilence = silence + begins > speech;
		came[frame] = (fromSpeech ? 1 : 0) | (fromSilence ? 2 : 0);
		const nextSilence = (fromSpeech ? speech + ends : silence) - weight;
		speech = (fromSilence ? silence + begins : speech) + weight;
		silence = nextSilence;
	}
	const found: [number, number][] = [];
	let isSpeaking = speech > silence;
	let to = evidence.length;
	for (let frame = evidence.length - 1; frame >= 0; frame--) {
		if ((came[frame]! & (isSpeaking ? 2 : 1)) === 0) continue;
		if (isSpeaking) found.push([frame, to]);
		isSpeaking = !isSpeaking;
		to = frame;
	}
	if (isSpeaking && to > 0) found.push([0, to]);
	return found.reverse();
}

function bridged(
	stretches: readonly (readonly [from: number, to: number])[],
	evidence: Float32Array
): readonly FrameStretch[] {
	const joined: [number, number][] = [];
	for (const [from, to] of stretches) {
		const last = joined.at(-1);
		if (last && (from - last[1]) * FRAME_SECONDS <= BRIDGED_SECONDS) last[1] = to;
		else joined.push([from, to]);
	}
	return joined.map(([from, to]) => {
		let sum = 0;
		for (let frame = from; frame < to; frame++) sum += evidence[frame]!;
		return { from, to, evidence: sum / (to - from) };
	});
}
