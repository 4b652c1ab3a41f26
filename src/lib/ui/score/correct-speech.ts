import type { Speech } from '../../core/shoot/person';
import type { ShootState } from '../state/shoot-state.svelte';
import type { SourcesState } from '../state/sources-state.svelte';

/** Moves an edge of a passage: what it gains is spoken by its person, what it loses is not. */
export async function correctEdge(
	shoot: ShootState,
	sources: SourcesState,
	{ personId, inFlicks, outFlicks }: Speech,
	edge: 'inFlicks' | 'outFlicks',
	toFlicks: number
): Promise<void> {
	const at = edge === 'inFlicks' ? inFlicks : outFlicks;
	if (toFlicks === at) return;
	const grows = edge === 'inFlicks' ? toFlicks < at : toFlicks > at;
	const [from, to] = [Math.min(at, toFlicks), Math.max(at, toFlicks)];
	await shoot.editLineUp((lineUpId) => ({
		kind: 'correct-speech',
		lineUpId,
		corrections: [{ personId, inFlicks: Math.round(from), outFlicks: Math.round(to), speaks: grows }]
	}));
	const middle = edge === 'inFlicks' ? (toFlicks + outFlicks) / 2 : (inFlicks + toFlicks) / 2;
	sources.chosen = { personId, atFlicks: middle };
}

/** Says that a passage is another person's. @param toPersonId nobody's where it is empty */
export async function giveTo(
	shoot: ShootState,
	sources: SourcesState,
	{ personId, inFlicks, outFlicks }: Speech,
	toPersonId: string
): Promise<void> {
	if (toPersonId === personId) return;
	await shoot.editLineUp((lineUpId) => ({
		kind: 'correct-speech',
		lineUpId,
		corrections: [
			{ personId, inFlicks, outFlicks, speaks: false },
			...(toPersonId === '' ? [] : [{ personId: toPersonId, inFlicks, outFlicks, speaks: true }])
		]
	}));
	if (toPersonId !== '') sources.chosen = { personId: toPersonId, atFlicks: (inFlicks + outFlicks) / 2 };
}
