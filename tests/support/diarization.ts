import type { Spoken } from './simulator/talk';

const FRAME_SECONDS = 0.01;

export interface DiarizationScore {
	/** Missed, false and confused speech over all speech, overlap counted, no collar (the measure of the NIST evaluations). */
	readonly error: number;
	/** Of stretches that were found: how far their starts are from the true ones, in seconds, sorted. */
	readonly startErrors: readonly number[];
}

/** Compares who speaks when with the truth; people in the same order. */
export function diarizationScore(
	truth: readonly (readonly Spoken[])[],
	found: readonly (readonly Spoken[])[],
	seconds: number
): DiarizationScore {
	const frames = Math.floor(seconds / FRAME_SECONDS);
	const marks = (stretches: readonly Spoken[]) => {
		const out = new Uint8Array(frames);
		for (const { from, to } of stretches)
			out.fill(1, Math.max(0, Math.round(from / FRAME_SECONDS)), Math.max(0, Math.round(to / FRAME_SECONDS)));
		return out;
	};
	const [is, says] = [truth.map(marks), found.map(marks)];
	let [wrong, spoken] = [0, 0];
	for (let frame = 0; frame < frames; frame++) {
		let [speak, said, right] = [0, 0, 0];
		for (let person = 0; person < is.length; person++) {
			speak += is[person]![frame]!;
			said += says[person]![frame]!;
			right += is[person]![frame]! & says[person]![frame]!;
		}
		wrong += Math.max(speak, said) - right;
		spoken += speak;
	}
	const startErrors = found.flatMap((own, person) =>
		own.flatMap(({ from }) => {
			const nearest = Math.min(...truth[person]!.map((one) => Math.abs(one.from - from)));
			return nearest < 0.5 ? [nearest] : [];
		})
	);
	return { error: spoken === 0 ? 0 : wrong / spoken, startErrors: startErrors.sort((a, b) => a - b) };
}
