import { LOSSES, UNKNOWN_SPEECH_TO_NOISE_DB } from '../limits/master';

/** How a person is heard by a source. */
export interface HeardPerson {
	readonly speechToNoiseDb?: number;
	/** What the room still has of his speech when it ends, over it. */
	readonly roomTailDb?: number;
}

/** Faults of what is heard, whoever speaks. */
export interface HeardFaults {
	readonly upperEdgeHz?: number;
	readonly clippedShare: number;
	readonly dropOuts: number;
	/** Against speech, in dB. */
	readonly humDb?: number;
	/** It stands out of what else is there. */
	readonly isHumHeard?: boolean;
	readonly rumbleDb?: number;
}

export type Loss = keyof typeof LOSSES;

export interface Points {
	/** 0 to 100. */
	readonly points: number;
	readonly losses: Readonly<Record<Loss, number>>;
	/** Of the average person and the worst. */
	readonly speechToNoiseDb?: number;
	readonly roomTailDb?: number;
}

/** Points of a source or of a set, in which each person counts as his best channel has him. */
export function pointsOf(people: readonly HeardPerson[], faults: HeardFaults): Points {
	const speechToNoiseDb = averageAndWorst(
		people.flatMap((one) => one.speechToNoiseDb ?? []),
		Math.min
	);
	const roomTailDb = averageAndWorst(
		people.flatMap((one) => one.roomTailDb ?? []),
		Math.max
	);
	const levels = people.flatMap((one) => one.speechToNoiseDb ?? []);
	const spread = levels.length > 1 ? Math.max(...levels) - Math.min(...levels) : 0;
	const { noise, room, uneven, dull, clipped, dropOuts, hum, rumble } = LOSSES;
	const losses: Record<Loss, number> = {
		noise: bounded(noise.aDecibel * (noise.underDb - (speechToNoiseDb ?? UNKNOWN_SPEECH_TO_NOISE_DB)), noise.most),
		room: roomTailDb === undefined ? 0 : bounded(room.aDecibel * (roomTailDb - room.overDb), room.most),
		uneven: bounded(uneven.aDecibel * (spread - uneven.overDb), uneven.most),
		dull:
			faults.upperEdgeHz === undefined
				? 0
				: bounded(dull.anOctave * Math.log2(dull.underHz / faults.upperEdgeHz), dull.most),
		clipped:
			faults.clippedShare > 0
				? bounded(clipped.first + clipped.aDoubling * Math.log2(1 + faults.clippedShare / clipped.share), clipped.most)
				: 0,
		dropOuts: bounded(dropOuts.first * faults.dropOuts ** dropOuts.power, dropOuts.most),
		hum:
			faults.humDb === undefined || !faults.isHumHeard
				? 0
				: bounded(hum.aDecibel * (faults.humDb - hum.overDb), hum.most),
		rumble:
			faults.rumbleDb === undefined ? 0 : bounded(rumble.aDecibel * (faults.rumbleDb - rumble.overDb), rumble.most)
	};
	const lost = Object.values(losses).reduce((sum, one) => sum + one, 0);
	return {
		points: Math.max(0, 100 - lost),
		losses,
		...(speechToNoiseDb === undefined ? {} : { speechToNoiseDb }),
		...(roomTailDb === undefined ? {} : { roomTailDb })
	};
}

function bounded(points: number, most: number): number {
	return Math.max(0, Math.min(most, points));
}

function averageAndWorst(values: readonly number[], worst: (...values: number[]) => number): number | undefined {
	if (values.length === 0) return undefined;
	const average = values.reduce((sum, one) => sum + one, 0) / values.length;
	return (average + worst(...values)) / 2;
}
