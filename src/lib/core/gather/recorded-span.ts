import type { FileName } from './file-name';
import type { MediaFacts } from './media-facts';

/** When a file was recorded, by its device's own clock. Clocks of two kinds cannot be compared. */
export interface RecordedSpan {
	readonly kind: 'date' | 'local date' | 'name' | 'timecode';
	/** Seconds; since 1970 for dates, of the day for timecode. */
	readonly atSeconds: number;
	readonly durationSeconds: number;
	/** Devices write the date of the beginning or of the end, and do not say which. */
	readonly isEitherEnd: boolean;
}

/** Dates before it are those of a clock that was never set. */
const EARLIEST_DATE = Date.UTC(2001, 0, 2) / 1000;
/** Whole seconds are written, at best. */
const TOLERANCE_SECONDS = 1.5;

export function spansOf(facts: MediaFacts, name: FileName): readonly RecordedSpan[] {
	const { durationSeconds, clockSeconds, creationTime } = facts;
	const spans: RecordedSpan[] = [];
	const isLocal = creationTime !== undefined && !/Z|[+-]\d\d:?\d\d$/.test(creationTime);
	const created = creationTime === undefined ? NaN : Date.parse(isLocal ? `${creationTime}Z` : creationTime) / 1000;
	if (created > EARLIEST_DATE)
		spans.push({
			kind: isLocal ? 'local date' : 'date',
			atSeconds: created,
			durationSeconds,
			isEitherEnd: facts.video !== undefined
		});
	if (name.clockSeconds !== undefined)
		spans.push({ kind: 'name', atSeconds: name.clockSeconds, durationSeconds, isEitherEnd: false });
	// A whole hour, or zero, is where counters begin that tell no time of day.
	if (clockSeconds !== undefined && clockSeconds % 3600 >= 1)
		spans.push({ kind: 'timecode', atSeconds: clockSeconds, durationSeconds, isEitherEnd: false });
	return spans;
}

/** Whether one device cannot have recorded both: by every clock that both tell, they ran at the same time. */
export function ranTogether(a: readonly RecordedSpan[], b: readonly RecordedSpan[]): boolean {
	const verdicts = a.flatMap((one) =>
		b.filter((other) => other.kind === one.kind).map((other) => overlaps(one, other))
	);
	return verdicts.length > 0 && verdicts.every((verdict) => verdict);
}

/** Whether both tell a time by one kind of clock. */
export function areTimed(a: readonly RecordedSpan[], b: readonly RecordedSpan[]): boolean {
	return a.some((one) => b.some((other) => other.kind === one.kind));
}

function overlaps(a: RecordedSpan, b: RecordedSpan): boolean {
	const asStarts = touch(a.atSeconds, a.durationSeconds, b.atSeconds, b.durationSeconds);
	if (!a.isEitherEnd || !b.isEitherEnd) return asStarts;
	const endsA = a.atSeconds - a.durationSeconds;
	const endsB = b.atSeconds - b.durationSeconds;
	return asStarts && touch(endsA, a.durationSeconds, endsB, b.durationSeconds);
}

function touch(a: number, lengthA: number, b: number, lengthB: number): boolean {
	return Math.min(a + lengthA, b + lengthB) - Math.max(a, b) > TOLERANCE_SECONDS;
}
