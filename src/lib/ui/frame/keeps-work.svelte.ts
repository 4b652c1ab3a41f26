import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import type { Transport } from '../playback/transport.svelte';
import type { ScoreView } from '../score/score-view.svelte';
import { keepLeftOff, readLeftOff } from '../state/left-off';
import type { ShootState } from '../state/shoot-state.svelte';
import type { Stage } from '../state/stages';

/** While something moves, nothing is kept. */
const SETTLED_MS = 400;
/** While playing, the place is kept in steps of this. */
const STEP_FLICKS = 4 * FLICKS_PER_SECOND;

interface Work {
	readonly shoot: ShootState;
	readonly transport: Transport;
	readonly view: ScoreView;
}

/**
 * Keeps where the work is, from now on. For the frame of a shoot, while it is set up.
 * @param stage nothing until the shoot is there @returns goes to where the work was left
 */
export function keepsWork({ shoot, transport, view }: Work, stage: () => Stage | undefined): () => void {
	const here = $derived({
		...(shoot.lineUpId ? { lineUpId: shoot.lineUpId } : {}),
		flicks: transport.playing ? Math.round(transport.shownFlicks / STEP_FLICKS) * STEP_FLICKS : transport.shownFlicks,
		startFlicks: view.startFlicks,
		flicksPerPixel: view.flicksPerPixel
	});
	// In words, so that the same place again is no change.
	const told = $derived(JSON.stringify(here));
	$effect(() => {
		const [at, now] = [stage(), told];
		if (!at) return;
		const keepNow = () => keepLeftOff(shoot.shootId, { stage: at, ...JSON.parse(now) });
		const timer = setTimeout(keepNow, SETTLED_MS);
		addEventListener('pagehide', keepNow);
		return () => {
			clearTimeout(timer);
			removeEventListener('pagehide', keepNow);
		};
	});
	return () => {
		const left = readLeftOff(shoot.shootId);
		if (left.lineUpId === undefined || left.lineUpId !== shoot.lineUpId) return;
		transport.startAt(left.flicks);
		if (left.startFlicks !== undefined && left.flicksPerPixel !== undefined)
			view.restore(left.startFlicks, left.flicksPerPixel, shoot.range);
	};
}
