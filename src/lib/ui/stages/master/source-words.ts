import type { Loss } from '../../../core/master/rank';
import type { ReportedSource } from '../../../core/master/report';
import { countWords } from '../../controls/words';

export const LOSS_WORDS: Readonly<Record<Loss, string>> = {
	noise: 'Noise',
	room: 'Room',
	uneven: 'Uneven people',
	dull: 'Missing highs',
	clipped: 'Clipping',
	dropOuts: 'Drop-outs',
	hum: 'Hum',
	rumble: 'Rumble'
};

/** A fault that can be gone to: what it is called, and where it lies. */
export interface FaultPlaces {
	readonly words: string;
	/** Moments of the line-up, in order. */
	readonly at: readonly number[];
}

/** Faults of a source that cost it something, each with where it lies. */
export function faultsOf({ clipped, droppedOut, losses, ...source }: ReportedSource): readonly FaultPlaces[] {
	return [
		...(clipped.length > 0
			? [{ words: `clipped in ${countWords(clipped.length, 'place')}`, at: clipped.map((one) => one.inFlicks) }]
			: []),
		...(droppedOut.length > 0
			? [{ words: countWords(droppedOut.length, 'drop-out'), at: droppedOut.map((one) => one.inFlicks) }]
			: []),
		...(losses.hum > 0 && source.loudestHumFlicks !== undefined
			? [{ words: 'hum', at: [source.loudestHumFlicks] }]
			: []),
		...(losses.rumble > 0 && source.loudestRumbleFlicks !== undefined
			? [{ words: 'rumble', at: [source.loudestRumbleFlicks] }]
			: [])
	];
}

/** People whose own microphone has the other polarity, by their places, if most of those are that are known. */
export function turnedAgainst({ people }: Pick<ReportedSource, 'people'>): readonly number[] {
	const known = [...people.keys()].filter((place) => people[place]!.isInverted !== undefined);
	const turned = known.filter((place) => people[place]!.isInverted);
	return turned.length * 2 > known.length ? turned : [];
}
