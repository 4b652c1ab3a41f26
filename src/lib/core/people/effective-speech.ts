import type { Speech, SpeechCorrection } from '../shoot/person';

type Found = Omit<Speech, 'isByHand'>;

/**
 * Who speaks when, as an editor has put it right: his word is laid over what was found, the later over the earlier.
 * @returns in order of time
 */
export function effectiveSpeech(found: readonly Found[], corrections: readonly SpeechCorrection[]): readonly Speech[] {
	let speech: readonly Speech[] = found.map((one) => ({ ...one, isByHand: false }));
	for (const correction of corrections) speech = corrected(speech, correction);
	return [...speech].sort((a, b) => a.inFlicks - b.inFlicks || a.outFlicks - b.outFlicks);
}

function corrected(
	speech: readonly Speech[],
	{ personId, inFlicks, outFlicks, speaks }: SpeechCorrection
): readonly Speech[] {
	const touches = (one: Speech) => one.personId === personId && one.outFlicks >= inFlicks && one.inFlicks <= outFlicks;
	const [own, others] = [speech.filter(touches), speech.filter((one) => !touches(one))];
	if (!speaks)
		return [
			...others,
			...own.flatMap((one) =>
				[
					{ ...one, outFlicks: Math.min(one.outFlicks, inFlicks) },
					{ ...one, inFlicks: Math.max(one.inFlicks, outFlicks) }
				]
					.filter((part) => part.outFlicks > part.inFlicks)
					.map((part) => ({
						...part,
						isByHand: one.isByHand || part.inFlicks !== one.inFlicks || part.outFlicks !== one.outFlicks
					}))
			)
		];
	return [
		...others,
		{
			personId,
			inFlicks: Math.min(inFlicks, ...own.map((one) => one.inFlicks)),
			outFlicks: Math.max(outFlicks, ...own.map((one) => one.outFlicks)),
			confidence: 1,
			isByHand: true
		}
	];
}

/** How long somebody speaks within a stretch, in flicks. */
export function spokenFlicks(
	speech: readonly Speech[],
	personId: string,
	{ inFlicks, outFlicks }: { readonly inFlicks: number; readonly outFlicks: number }
): number {
	return speech
		.filter((one) => one.personId === personId)
		.reduce((sum, one) => sum + Math.max(0, Math.min(outFlicks, one.outFlicks) - Math.max(inFlicks, one.inFlicks)), 0);
}
