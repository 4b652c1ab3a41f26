import { DIFFERENCE_SHARES, FLOOR_SHARE, LEARN_OVER_FLOOR_DB, MIN_CORNER_SHARE } from '../limits/people';
import { POWER_OF_BYTE } from '../measure/readings';
import { shareOfBytes, shareOfCounts } from '../signal/byte-shares';

/** How people's close microphones hear each other. Person i has channel i. */
export interface BleedModel {
	/** Share of a person's power on his own channel that is heard on each, person after person: 1 on his own. */
	readonly bleed: Float64Array;
	/** What each channel has when nobody speaks, as a byte of power and as power. */
	readonly floorBytes: Uint8Array;
	readonly floors: Float64Array;
	/** Who was clearly the one who spoke in each frame, or -1. */
	readonly corners: Int16Array;
	/** Frames in which each was, of those that count. */
	readonly cornerShares: readonly number[];
}

const STEPS_A_DECIBEL = 2;
const DIFFERENCES = 511;
const ZERO = 255;

/**
 * Learns from levels alone who is heard how much by whose microphone: where one channel stands above the middle of its
 * differences to all others, its person speaks; there the others' levels are his bleed. Gains need not be alike.
 * @param levels power bytes of each person's channel, as many frames each; 0 where it does not run
 */
export function learnBleed(levels: readonly Uint8Array[]): BleedModel {
	const count = levels.length;
	const floorBytes = floorsOf(levels);
	const { corners, counted } = findCorners(levels, floorBytes);
	const cornerCounts = new Uint32Array(count);
	for (const person of corners) if (person >= 0) cornerCounts[person]!++;
	const bleed = new Float64Array(count * count);
	for (let person = 0; person < count; person++)
		for (let channel = 0; channel < count; channel++)
			bleed[person * count + channel] = person === channel ? 1 : bleedOf(levels, corners, person, channel);
	return {
		bleed,
		floorBytes,
		floors: Float64Array.from(floorBytes, (byte) => POWER_OF_BYTE[byte]!),
		corners,
		cornerShares: [...cornerCounts].map((own) => (counted === 0 ? 0 : own / counted))
	};
}

/** Whether a person was heard alone often enough to be known. */
export function isKnown({ cornerShares }: BleedModel, person: number): boolean {
	return cornerShares[person]! >= MIN_CORNER_SHARE;
}

function floorsOf(levels: readonly Uint8Array[]): Uint8Array {
	return Uint8Array.from(levels, (one) => shareOfBytes(one, FLOOR_SHARE));
}

function findCorners(
	levels: readonly Uint8Array[],
	floors: Uint8Array
): { readonly corners: Int16Array; readonly counted: number } {
	const counting = countingFrames(levels, floors);
	const middles = middleDifferences(levels, counting);
	const corners = new Int16Array(counting.length).fill(-1);
	let counted = 0;
	for (let frame = 0; frame < counting.length; frame++) {
		if (counting[frame] === 0) continue;
		counted++;
		corners[frame] = cornerAt(levels, middles, frame);
	}
	return { corners, counted };
}

function countingFrames(levels: readonly Uint8Array[], floors: Uint8Array): Uint8Array {
	const counting = new Uint8Array(levels[0]?.length ?? 0);
	for (const [channel, own] of levels.entries()) {
		const least = floors[channel]! + LEARN_OVER_FLOOR_DB * STEPS_A_DECIBEL;
		for (let frame = 0; frame < own.length; frame++) if (own[frame]! >= least) counting[frame] = 1;
	}
	return counting;
}

/** The middle between the least and the greatest difference of two channels' levels, in steps; row after row. */
function middleDifferences(levels: readonly Uint8Array[], counting: Uint8Array): Float64Array {
	const count = levels.length;
	const middles = new Float64Array(count * count);
	for (let a = 0; a < count; a++)
		for (let b = 0; b < a; b++) {
			const counts = new Uint32Array(DIFFERENCES);
			const [one, other] = [levels[a]!, levels[b]!];
			for (let frame = 0; frame < one.length; frame++)
				if (counting[frame] !== 0 && one[frame] !== 0 && other[frame] !== 0)
					counts[one[frame]! - other[frame]! + ZERO]!++;
			const [least, greatest] = DIFFERENCE_SHARES.map((share) => shareOfCounts(counts, share) - ZERO);
			middles[a * count + b] = (least! + greatest!) / 2;
			middles[b * count + a] = -(least! + greatest!) / 2;
		}
	return middles;
}

/** The channel that beats all middles in a frame, or -1. */
function cornerAt(levels: readonly Uint8Array[], middles: Float64Array, frame: number): number {
	const count = levels.length;
	for (let channel = 0; channel < count; channel++) {
		const own = levels[channel]![frame]!;
		if (own === 0) continue;
		let beats = true;
		for (let other = 0; other < count && beats; other++)
			beats = other === channel || own - levels[other]![frame]! > middles[channel * count + other]!;
		if (beats) return channel;
	}
	return -1;
}

/** Median share of a person's power on another channel, where he is loud: in what is soft the other's own noise is heard. */
function bleedOf(levels: readonly Uint8Array[], corners: Int16Array, person: number, channel: number): number {
	const [own, other] = [levels[person]!, levels[channel]!];
	const loudness = new Uint32Array(256);
	for (let frame = 0; frame < own.length; frame++) if (corners[frame] === person) loudness[own[frame]!]!++;
	const loud = shareOfCounts(loudness, 0.5);
	const counts = new Uint32Array(DIFFERENCES);
	for (let frame = 0; frame < own.length; frame++)
		if (corners[frame] === person && own[frame]! >= loud && other[frame] !== 0)
			counts[other[frame]! - own[frame]! + ZERO]!++;
	const median = shareOfCounts(counts, 0.5) - ZERO;
	return counts.every((one) => one === 0) ? 0 : 10 ** (median / STEPS_A_DECIBEL / 10);
}
