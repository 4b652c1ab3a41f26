import type { AngleState } from './wall-messages';

/** What an angle shows that is not the picture of this very time: "still, 0.4 s old; being made: 12 s". */
export function angleWords({ ageSeconds, secondsLeft, problem }: AngleState): string {
	if (problem) return problem;
	const made = secondsLeft === undefined ? 'being made' : `being made: ${Math.max(1, secondsLeft)} s`;
	if (ageSeconds === undefined) return secondsLeft === undefined ? 'the picture is on its way' : made;
	return `still, ${ageWords(ageSeconds)}; ${made}`;
}

function ageWords(seconds: number): string {
	const tenths = Math.abs(seconds).toFixed(1);
	return seconds < 0 ? `${tenths} s ahead` : `${tenths} s old`;
}
