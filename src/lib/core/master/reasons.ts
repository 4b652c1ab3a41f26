import { TOLD_LOSS } from '../limits/master';
import type { HeardFaults, Loss, Points } from './rank';

const LOST_BY: Readonly<Record<Loss, string>> = {
	noise: 'noise',
	room: 'the room',
	uneven: 'people at uneven levels',
	dull: 'missing highs',
	clipped: 'clipping',
	dropOuts: 'drop-outs',
	hum: 'hum',
	rumble: 'rumble'
};

/** What speaks for a source and against it, in one sentence. @param coverage of the stretch, 0 to 1 */
export function reasonsFor(
	{ losses, speechToNoiseDb, roomTailDb }: Points,
	faults: HeardFaults,
	coverage: number
): string {
	const facts = [
		...(speechToNoiseDb === undefined ? [] : [`speech ${whole(speechToNoiseDb)} dB over noise`]),
		...(roomTailDb === undefined ? [] : [`room tail ${whole(-roomTailDb)} dB under speech`]),
		...(faults.upperEdgeHz === undefined ? [] : [`up to ${(faults.upperEdgeHz / 1000).toFixed(1)} kHz`]),
		coverage >= 0.995 ? 'covers all' : `covers ${Math.floor(100 * coverage)}%`
	];
	const lost = (Object.entries(losses) as [Loss, number][])
		.filter(([, points]) => points >= TOLD_LOSS)
		.sort(([, a], [, b]) => b - a)
		.slice(0, 3)
		.map(([loss, points]) => `${whole(points)} by ${LOST_BY[loss]}`);
	const said = facts.join(', ') + (lost.length > 0 ? `; loses ${listed(lost)}` : '');
	return `${said[0]!.toUpperCase()}${said.slice(1)}.`;
}

function whole(value: number): string {
	return `${Math.round(value) + 0}`.replace('-', '−');
}

function listed(words: readonly string[]): string {
	return words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;
}
