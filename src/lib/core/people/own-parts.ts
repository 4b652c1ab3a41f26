import { PART_ROUNDS } from '../limits/people';
import { fromPower, POWER_OF_BYTE } from '../measure/readings';
import type { BleedModel } from './bleed';

/** What of each channel its own person is, and what the others leave on it: power bytes, frame by frame. */
export interface OwnParts {
	readonly own: readonly Uint8Array[];
	readonly others: readonly Uint8Array[];
}

/**
 * Takes apart what close microphones hear: powers are the sum of people's, each heard everywhere by his bleed, and of each
 * channel's quiet. Multiplicative updates for the divergence. Source: Lee and Seung 2001, "Algorithms for non-negative
 * matrix factorization", theorem 2, with the bleed held.
 */
export function takeApart(levels: readonly Uint8Array[], { bleed, floors }: BleedModel): OwnParts {
	const count = levels.length;
	const frames = levels[0]?.length ?? 0;
	const own = levels.map(() => new Uint8Array(frames));
	const others = levels.map(() => new Uint8Array(frames));
	const heard = new Float64Array(count);
	const parts = new Float64Array(count);
	const ratios = new Float64Array(count);
	const sums = Float64Array.from({ length: count }, (_, person) => {
		let sum = 0;
		for (let channel = 0; channel < count; channel++) sum += bleed[person * count + channel]!;
		return sum;
	});
	for (let frame = 0; frame < frames; frame++) {
		let isAnything = false;
		for (let channel = 0; channel < count; channel++) {
			heard[channel] = POWER_OF_BYTE[levels[channel]![frame]!]!;
			parts[channel] = Math.max(1e-14, heard[channel]! - floors[channel]!);
			isAnything ||= heard[channel]! > floors[channel]!;
		}
		if (!isAnything) continue;
		for (let round = 0; round < PART_ROUNDS; round++) {
			for (let channel = 0; channel < count; channel++) {
				let sum = floors[channel]! + 1e-15;
				for (let person = 0; person < count; person++) sum += parts[person]! * bleed[person * count + channel]!;
				ratios[channel] = heard[channel]! / sum;
			}
			for (let person = 0; person < count; person++) {
				let sum = 0;
				for (let channel = 0; channel < count; channel++) sum += bleed[person * count + channel]! * ratios[channel]!;
				parts[person] = (parts[person]! * sum) / sums[person]!;
			}
		}
		for (let channel = 0; channel < count; channel++) {
			let sum = floors[channel]!;
			for (let person = 0; person < count; person++)
				if (person !== channel) sum += parts[person]! * bleed[person * count + channel]!;
			own[channel]![frame] = fromPower(parts[channel]!);
			others[channel]![frame] = fromPower(sum);
		}
	}
	return { own, others };
}
