import type { SourcesReport } from '../master/report';
import { effectiveSpeech } from '../people/effective-speech';
import type { Person, Speech, SpeechCorrection } from '../shoot/person';
import type { Range } from '../shoot/lookup';

/** Who speaks when on a line-up, and how loud each source has him: as far as it is known. */
export interface HeardSpeech {
	readonly people: readonly Person[];
	/** In order of time, as an editor has put it right. */
	readonly speech: readonly Speech[];
	readonly sets: SourcesReport['sets'];
	readonly sources: SourcesReport['sources'];
	/** Whose figures the sources have, in their order. */
	readonly personIds: readonly string[];
}

/** @param report what was found; nothing where nobody has listened yet */
export function heardSpeech(
	people: readonly Person[],
	report: SourcesReport | null | undefined,
	corrections: readonly SpeechCorrection[]
): HeardSpeech {
	return {
		people,
		speech: effectiveSpeech(report?.speech ?? [], corrections),
		sets: report?.sets ?? [],
		sources: report?.sources ?? [],
		personIds: report?.personIds ?? []
	};
}

/** Stretches put together where they touch or lie no further apart than a gap. @returns in order, apart */
export function joined(stretches: readonly Range[], gapFlicks = 0): readonly Range[] {
	const sorted = [...stretches].sort((a, b) => a.inFlicks - b.inFlicks);
	const out: { inFlicks: number; outFlicks: number }[] = [];
	for (const { inFlicks, outFlicks } of sorted) {
		const last = out.at(-1);
		if (last && inFlicks - last.outFlicks <= gapFlicks) last.outFlicks = Math.max(last.outFlicks, outFlicks);
		else out.push({ inFlicks, outFlicks });
	}
	return out;
}
