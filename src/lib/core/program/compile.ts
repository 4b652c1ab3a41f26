import type { PlacedClip } from '../shoot/clip';
import type { StoredProgram } from '../shoot/decisions';
import { placedClips } from '../shoot/lookup';
import type { Shoot } from '../shoot/shoot';
import { flicksToVideoFrame, videoFrameToFlicks } from '../time/flicks';
import type { Rational } from '../time/rational';
import { type Covered, type FileSource, pictureCoverage } from './coverage';
import type { HeardSpeech } from './heard-speech';
import { mixedSound, type SoundInterval } from './mixed-sound';
import { anglesOf, shotsOf } from './program';
import { type SoundRun, soundRuns } from './sound-runs';

/** What a run of frames shows. */
export type Shown =
	/** The angle that was called. */
	| { readonly kind: 'called'; readonly source: FileSource }
	/** Another angle, where the called one has no picture. */
	| { readonly kind: 'stand-in'; readonly source: FileSource }
	/** One picture, where no angle has one: that of the nearest frame that has. */
	| { readonly kind: 'held'; readonly source: FileSource; readonly heldFrame: number }
	/** Nothing: the whole program has no picture. */
	| { readonly kind: 'black' };

/** A run of frames of the line-up, `[fromFrame, toFrame)`, that show one file, one held picture or nothing. */
export interface PictureInterval {
	readonly fromFrame: number;
	readonly toFrame: number;
	readonly callId: string;
	readonly calledDeviceId: string;
	readonly shown: Shown;
}

/** What the audience sees and hears: the page, the player, the movie and every exchange file read this and nothing else. */
export interface Plan {
	readonly rate: Rational;
	readonly fromFrame: number;
	readonly toFrame: number;
	/** In order; together they fill the program. */
	readonly pictures: readonly PictureInterval[];
	readonly sounds: readonly SoundInterval[];
	readonly stoodInFrames: number;
	readonly heldFrames: number;
	readonly blackFrames: number;
}

/** What there is to see and to hear on a line-up, device by device: it follows from the places alone, not from the calls. */
export interface Coverage {
	readonly pictures: ReadonlyMap<string, readonly Covered[]>;
	readonly sounds: ReadonlyMap<string, readonly SoundRun[]>;
}

export function coverLineUp(placed: readonly PlacedClip[]): Coverage {
	return { pictures: pictureCoverage(placed), sounds: soundRuns(placed) };
}

/**
 * Compiles a program: a sweep over the boundaries of shots and of what each angle covers. Where the called angle has no
 * picture the main camera stands in, else the first camera that has one; where none has, the picture before is held, at the
 * beginning the one after.
 * @param heard who speaks when, as far as it is known
 * @param coverage of the program's line-up, where it is known already
 */
export function compile(
	shoot: Shoot,
	program: StoredProgram,
	heard?: HeardSpeech,
	coverage = coverLineUp(placedClips(shoot, program.lineUpId))
): Plan {
	const { rate } = shoot;
	const angles = framesOfAngles(coverage.pictures, rate);
	const all = anglesOf(shoot, program.lineUpId);
	const standIns = [...all].sort((a, b) => Number(b === shoot.mainCameraId) - Number(a === shoot.mainCameraId));
	const pictures: PictureInterval[] = [];
	for (const shot of shotsOf(program)) {
		const called = { callId: shot.callId, calledDeviceId: shot.deviceId };
		const [from, to] = [flicksToVideoFrame(shot.inFlicks, rate), flicksToVideoFrame(shot.outFlicks, rate)];
		const order = [shot.deviceId, ...standIns.filter((one) => one !== shot.deviceId)];
		fill(from, to, order, angles, (fromFrame, toFrame, source) =>
			pictures.push({
				...called,
				fromFrame,
				toFrame,
				shown: !source ? { kind: 'black' } : { kind: source.deviceId === shot.deviceId ? 'called' : 'stand-in', source }
			})
		);
	}
	const held = withHolds(pictures);
	const count = (kind: Shown['kind']) =>
		held.reduce((sum, one) => sum + (one.shown.kind === kind ? one.toFrame - one.fromFrame : 0), 0);
	return {
		rate,
		fromFrame: flicksToVideoFrame(program.inFlicks, rate),
		toFrame: flicksToVideoFrame(program.outFlicks, rate),
		pictures: held,
		sounds: mixedSound(shoot, program.lineUpId, coverage.sounds, program, heard).intervals,
		stoodInFrames: count('stand-in'),
		heldFrames: count('held'),
		blackFrames: count('black')
	};
}

/** Frames `[fromFrame, toFrame)` at whose beginnings a device has pictures of a file. */
interface CoveredFrames {
	readonly fromFrame: number;
	readonly toFrame: number;
	readonly source: FileSource;
}

function framesOfAngles(
	coverage: ReadonlyMap<string, readonly Covered[]>,
	rate: Rational
): ReadonlyMap<string, readonly CoveredFrames[]> {
	// The first frame that begins no more than a flick before: times that were rounded count as equal.
	const frameFrom = (flicks: number) => flicksToVideoFrame(flicks - 1, rate) + 1;
	return new Map(
		[...coverage].map(([deviceId, stretches]) => [
			deviceId,
			stretches
				.map(({ inFlicks, outFlicks, source }) => ({
					fromFrame: frameFrom(inFlicks),
					toFrame: frameFrom(outFlicks),
					source
				}))
				.filter((one) => one.toFrame > one.fromFrame)
		])
	);
}

/** Fills frames with the first angle of an order that has pictures, its holes with the next one, and so on. */
function fill(
	from: number,
	to: number,
	[first, ...others]: readonly string[],
	angles: ReadonlyMap<string, readonly CoveredFrames[]>,
	put: (fromFrame: number, toFrame: number, source: FileSource | undefined) => void
): void {
	if (to <= from) return;
	if (first === undefined) {
		put(from, to, undefined);
		return;
	}
	const covered = angles.get(first) ?? [];
	let at = from;
	for (let index = firstEndingAfter(covered, from); at < to; index++) {
		const next = covered[index];
		const begins = Math.max(at, Math.min(to, next?.fromFrame ?? to));
		fill(at, begins, others, angles, put);
		if (!next || begins >= to) return;
		at = Math.min(to, next.toFrame);
		put(begins, at, next.source);
	}
}

/** Stretches lie in order: a binary search. */
function firstEndingAfter(stretches: readonly { readonly toFrame: number }[], frame: number): number {
	let [low, high] = [0, stretches.length];
	while (low < high) {
		const middle = (low + high) >> 1;
		if (stretches[middle]!.toFrame <= frame) low = middle + 1;
		else high = middle;
	}
	return low;
}

/** Gives frames without a picture the last one before them to hold; at the beginning the first one after. */
function withHolds(pictures: readonly PictureInterval[]): readonly PictureInterval[] {
	const hasPicture = (one: PictureInterval) => one.shown.kind !== 'black';
	const firstWith = pictures.find(hasPicture);
	let last: PictureInterval | undefined;
	return pictures.map((one) => {
		if (hasPicture(one)) {
			last = one;
			return one;
		}
		const near = last ?? firstWith;
		if (!near || near.shown.kind === 'black') return one;
		const heldFrame = near === last ? near.toFrame - 1 : near.fromFrame;
		return { ...one, shown: { kind: 'held', source: near.shown.source, heldFrame } };
	});
}

/** What the audience sees at a moment; nothing outside the program. */
export function pictureOnAir({ pictures, rate }: Plan, flicks: number): PictureInterval | undefined {
	const frame = flicksToVideoFrame(flicks, rate);
	const found = pictures[firstEndingAfter(pictures, frame)];
	return found && frame >= found.fromFrame ? found : undefined;
}

/** The line-up's time of the picture that an interval shows at a moment: the moment itself, or that of the one it holds. */
export function shownFlicks({ shown }: PictureInterval, flicks: number, rate: Rational): number {
	return shown.kind === 'held' ? videoFrameToFlicks(shown.heldFrame, rate) : flicks;
}
