import { seededRandom } from '../../demo/random';
import { ANALYSIS_SAMPLE_RATE } from '../../src/lib/core/features/band-features';
import { passageLag } from '../../src/lib/core/match/search/passage-lag';
import { createWindowCorrelator } from '../../src/lib/core/match/windows/window-correlation';
import { fastFftProvider } from '../../src/lib/server/engine/fast-fft';
import { CASES } from '../support/simulator/cases';
import { analysisSound } from '../support/simulator/in-memory';
import { recordShoot, type TrueFile } from '../support/simulator/simulator';

/** A lag is right this near one of the ways that a voice of the scene can have taken. */
const RIGHT_SECONDS = 0.004;
const CASE_NAMES = [
	'podcast',
	'roaming camera',
	'scratch at 0 dB against babble',
	'scratch at −10 dB against babble',
	'close microphone against distant camera',
	'another day',
	'song with repeated choruses',
	'live room: conference',
	'live room: small, a far camera',
	'live room: takes to a loudspeaker',
	'live room: real voices, a far camera'
];
const LENGTHS = [0.2, 0.5, 1, 2, 5];

/** One passage that was looked at closely: what the engine says of it, and whether that is so. */
export interface LookedAt {
	readonly seconds: number;
	readonly confidence: number;
	readonly isClear: boolean;
	readonly isRight: boolean;
	readonly height: number;
	readonly lead: number;
	readonly agreement: number;
}

/** Looks at passages of simulated shoots of known truth, speech and pauses alike, and at pairs that share nothing. */
export async function lookAtPassages(
	firstSeed: number,
	seeds: number,
	passages: number,
	names: readonly string[] = CASE_NAMES
): Promise<readonly LookedAt[]> {
	const provider = await fastFftProvider();
	const correlate = createWindowCorrelator(provider);
	const out: LookedAt[] = [];
	for (const name of names) {
		const one = CASES.find((known) => known.name === name)!;
		for (let seed = firstSeed; seed < firstSeed + seeds; seed++) {
			const random = seededRandom(seed * 31 + 7);
			const files = [...recordShoot(await one.build(seed), seed, provider)].map(({ truth, channels }) => ({
				truth,
				sound: analysisSound(channels.at(-1)!, provider)
			}));
			for (let count = 0; count < passages; count++) {
				const [a, b] = [files[Math.floor(random() * files.length)]!, files[Math.floor(random() * files.length)]!];
				if (a.truth.device === b.truth.device) continue;
				const seconds = LENGTHS[Math.floor(random() * LENGTHS.length)]!;
				const found = look(a, b, seconds, random(), 0.25);
				if (found) out.push(found);
			}
		}
	}
	return out;

	function look(
		a: { truth: TrueFile; sound: Int16Array },
		b: { truth: TrueFile; sound: Int16Array },
		seconds: number,
		share: number,
		reachSeconds: number
	): LookedAt | undefined {
		const from = Math.max(a.truth.heardStartSeconds, b.truth.heardStartSeconds) + 1;
		const to =
			Math.min(a.truth.heardStartSeconds + a.truth.seconds, b.truth.heardStartSeconds + b.truth.seconds) - 1 - seconds;
		if (to <= from) return undefined;
		const at = from + share * (to - from);
		const factor = (file: TrueFile) => 1 + file.ratePpm * 1e-6;
		const place = (file: TrueFile) => ((at - file.heardStartSeconds) / factor(file)) * ANALYSIS_SAMPLE_RATE;
		const bFrom = Math.round(place(b.truth));
		const found = passageLag(
			{
				a: a.sound,
				aFrom: place(a.truth),
				aStep: factor(b.truth) / factor(a.truth),
				b: b.sound,
				bFrom,
				samples: Math.floor(seconds * ANALYSIS_SAMPLE_RATE),
				reachSamples: Math.round(reachSeconds * ANALYSIS_SAMPLE_RATE)
			},
			correlate
		);
		if (!found) return undefined;
		const lag = found.peak.lagSeconds + (bFrom - place(b.truth)) / ANALYSIS_SAMPLE_RATE;
		const isRight =
			a.truth.scene === b.truth.scene &&
			a.truth.lateSeconds.some((late, voice) => Math.abs(lag - (b.truth.lateSeconds[voice]! - late)) < RIGHT_SECONDS);
		return {
			seconds,
			confidence: found.confidence,
			isClear: found.isClear,
			isRight,
			height: found.peak.height,
			lead: found.peak.height / found.runnerUp.height,
			agreement: found.agreement
		};
	}
}
