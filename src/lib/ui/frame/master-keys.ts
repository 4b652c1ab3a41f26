import { asMaster, setAsMaster } from '../../core/master/as-master';
import { secondsToFlicks } from '../../core/time/flicks';
import type { KeyContext } from './key-context';

/** Keys of Master, as the sheet shows them. */
export const MASTER_KEY_SHEET: readonly { readonly keys: string; readonly does: string }[] = [
	{ keys: '↑ ↓', does: 'Listen to the source above or below in the ranking' },
	{ keys: 'M', does: 'Back to the master' },
	{ keys: 'X', does: 'What was heard before, and back again' },
	{ keys: 'E', does: 'As loud as the master, or as it is' },
	{ keys: 'P', does: 'The next person; with Shift the one before' },
	{ keys: '< >', does: 'To the passage before or after of that person' },
	{ keys: 'O', does: 'Play only that person’s passages' },
	{ keys: 'R', does: 'Play ten seconds round and round' },
	{ keys: 'Delete', does: 'The chosen passage is not this person' }
];

const LOOP_SECONDS = 10;

/** What a key does in Master; nothing where it means nothing there. */
export function masterAction(key: string, context: KeyContext): (() => void) | undefined {
	const { listening, sources } = context;
	switch (key) {
		case 'ArrowUp':
		case 'ArrowDown':
			return () => listenToNeighbour(context, key === 'ArrowUp' ? -1 : 1);
		case 'm':
			return () => listening.listenTo(undefined);
		case 'x':
			return () => listening.listenInTurn();
		case 'e':
			return () => listening.toggleMatching();
		case 'p':
		case 'P':
			return () => chooseNextPerson(context, key === 'P' ? -1 : 1);
		case '<':
		case '>':
			return () => toPassage(context, key === '>');
		case 'o':
			return () => (sources.playsOnlyPerson = !sources.playsOnlyPerson);
		case 'r':
			return () => toggleListeningLoop(context);
		case 'Delete':
		case 'Backspace':
			return sources.chosenSpeech ? () => void dropPassage(context) : undefined;
	}
	return undefined;
}

/** The sets, then the single sources: from one to the next in their order. */
function listenToNeighbour({ listening, sources }: KeyContext, by: number): void {
	const { report } = sources;
	if (!report) return;
	const order = [
		...report.sets.filter((set) => set.channels.length > 1).map((set) => ({ channels: setAsMaster(set) })),
		...report.sources.filter((source) => !source.isDead).map((source) => ({ channels: asMaster([source]) }))
	];
	if (order.length === 0) return;
	const at = order.findIndex((one) => listening.isTried(one));
	const next = at < 0 ? (by > 0 ? 0 : order.length - 1) : (at + by + order.length) % order.length;
	listening.listenTo(order[next]);
}

function chooseNextPerson({ shoot, sources }: KeyContext, by: number): void {
	const { people } = shoot.shoot;
	if (people.length === 0) return;
	const at = people.findIndex((one) => one.id === sources.person?.id);
	sources.personId = people[(at + by + people.length) % people.length]!.id;
}

export function toPassage(
	{ sources, transport, view }: Pick<KeyContext, 'sources' | 'transport' | 'view'>,
	onwards: boolean
): void {
	const at = transport.shownFlicks;
	const slack = secondsToFlicks(0.3);
	const next = onwards
		? sources.passages.find((one) => one.inFlicks > at + 1)
		: sources.passages.findLast((one) => one.inFlicks < at - slack);
	if (!next) return;
	sources.chosen = { personId: next.personId, atFlicks: next.inFlicks };
	transport.goTo(next.inFlicks);
	view.reveal(next.inFlicks);
}

function toggleListeningLoop({ proof, shoot, transport }: KeyContext): void {
	if (proof.loop) {
		proof.loop = undefined;
		return;
	}
	const inFlicks = transport.shownFlicks;
	const outFlicks = Math.min(shoot.range.outFlicks, inFlicks + secondsToFlicks(LOOP_SECONDS));
	if (outFlicks > inFlicks) proof.loop = { inFlicks, outFlicks };
}

async function dropPassage({ shoot, sources }: KeyContext): Promise<void> {
	const passage = sources.chosenSpeech;
	if (!passage) return;
	const { personId, inFlicks, outFlicks } = passage;
	await shoot.editLineUp((lineUpId) => ({
		kind: 'correct-speech',
		lineUpId,
		corrections: [{ personId, inFlicks, outFlicks, speaks: false }]
	}));
}
