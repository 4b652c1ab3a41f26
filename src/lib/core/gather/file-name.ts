/** What a file's name tells, as cameras and recorders write it. */
export interface FileName {
	/** The name without its counter, copy mark and ending: files of one device share it. */
	readonly series: string;
	/** Number that goes up from clip to clip; a name that is no more than a word has none. */
	readonly counter?: number;
	/** Digits it is written with; devices fill it up with zeros. */
	readonly counterDigits: number;
	/** "C0001 (2)", "C0001 - Copy": made by a computer when the name was taken. */
	readonly copy: number;
	/** Start of the recording by the device's clock, in seconds since 1970 as if it were UTC; names of date and time. */
	readonly clockSeconds?: number;
}

/** A number behind one of these names a device, not a clip (common practice): "cam 2" is not the second clip of "cam". */
const DEVICE_WORDS =
	/(?:^|[^\p{L}])(?:cam|camera|kamera|caméra|angle|mic|mike|lav|boom|recorder|rec|phone|track|person|speaker|guest|host|device|unit)[\s_.-]*$/iu;
const COPY_MARK = /(?:[\s_]*\((\d{1,2})\)|\s+-?\s*copy(?:\s*\(?(\d{1,2})\)?)?)$/i;
const DATE_AND_TIME =
	/(?<!\d)((?:19|20)\d\d)[-_.]?([01]\d)[-_.]?([0-3]\d)[T\s_.-]{0,2}([0-2]\d)[-_.h]?([0-5]\d)[-_.m]?([0-5]\d)(?!\d{4,})/;
const DATE =
	/(?<![\p{L}\d])(?:(?:19|20)\d\d[-_.]?(?:0\d|1[0-2])[-_.]?(?:[0-2]\d|3[01])|\d\d(?:0\d|1[0-2])(?:[0-2]\d|3[01]))(?![\p{L}\d])/gu;
/** Reel and clip: "A003C012", then often a date and a mark of its own for each clip. */
const REEL_AND_CLIP = /^(.*?\p{L})(\d{3})(_?C)(\d{3,4})(?!\d)(.*)$/iu;
/** Chapter and recording: "AB020017" is the second file of recording 17. */
const CHAPTER_AND_RECORDING = /^(\p{L}{2})(\d{2})(\d{4})$/u;

/** @param path with forward slashes; folders are left aside */
export function parseFileName(path: string): FileName {
	const whole = path.slice(path.lastIndexOf('/') + 1).replace(/\.[^.]+$/, '');
	const mark = COPY_MARK.exec(whole);
	const copy = mark ? Number(mark[1] ?? mark[2] ?? 1) : 0;
	const name = (mark ? whole.slice(0, mark.index) : whole).toLowerCase();
	const clockSeconds = clockIn(name);
	if (clockSeconds !== undefined)
		return { series: name.replace(DATE_AND_TIME, '*'), counterDigits: 0, copy, clockSeconds };
	const reel = REEL_AND_CLIP.exec(name);
	if (reel) {
		const [, before, number, between, clip] = reel as unknown as [string, string, string, string, string];
		// The reel goes up from card to card of one camera; what follows differs from clip to clip.
		return { series: `${before}*${between}#`, counter: Number(number) * 10_000 + Number(clip), counterDigits: 4, copy };
	}
	const chapter = CHAPTER_AND_RECORDING.exec(name);
	if (chapter) return { series: `${chapter[1]}*#`, counter: Number(chapter[3]), counterDigits: 4, copy };
	const undated = name.replace(DATE, (date) => '*'.repeat(date.length));
	const at = counterIn(undated);
	const series = at ? `${undated.slice(0, at.from)}#${undated.slice(at.to)}` : undated;
	const digits = at ? undated.slice(at.from, at.to) : '';
	return {
		series: series.replace(/\*+/g, '*'),
		...(at ? { counter: Number(digits) } : {}),
		counterDigits: digits.length,
		copy
	};
}

function clockIn(name: string): number | undefined {
	const match = DATE_AND_TIME.exec(name);
	if (!match) return undefined;
	const [year, month, day, hours, minutes, seconds] = match.slice(1).map(Number) as [
		number,
		number,
		number,
		number,
		number,
		number
	];
	if (month < 1 || month > 12 || day < 1 || hours > 23) return undefined;
	return Date.UTC(year, month - 1, day, hours, minutes, seconds) / 1000;
}

/** The counter is the last number of three digits and more, or else the last one that does not name a device. */
function counterIn(name: string): { readonly from: number; readonly to: number } | undefined {
	const numbers = [...name.matchAll(/\d+/g)].map(({ index, 0: digits }) => ({
		from: index,
		to: index + digits.length
	}));
	const isLong = ({ from, to }: { readonly from: number; readonly to: number }) => to - from >= 3;
	return numbers.findLast(isLong) ?? numbers.findLast(({ from }) => !DEVICE_WORDS.test(name.slice(0, from)));
}

/**
 * Whether two series stand beside each other, as those of two devices do: alike but for one short word or number that
 * is not the counter ("A#" and "B#", "cam1_#" and "cam2_#").
 */
export function areParallel(a: string, b: string): boolean {
	if (a === b) return false;
	const [one, other] = [piecesOf(a), piecesOf(b)];
	if (one.length !== other.length) return false;
	const different = one.flatMap((piece, index) => (piece === other[index] ? [] : [index]));
	if (different.length !== 1) return false;
	const [x, y] = [one[different[0]!]!, other[different[0]!]!];
	const isShort = x.length <= 2 && y.length <= 2;
	const differsAtItsEnd = x.length === y.length && x.length > 1 && x.slice(0, -1) === y.slice(0, -1);
	return isShort || differsAtItsEnd;
}

function piecesOf(series: string): readonly string[] {
	return series.match(/\p{L}+|\d+|#|\*|[^\p{L}\d#*]+/gu) ?? [];
}
