import { untrack } from 'svelte';
import type { Transport } from '../playback/transport.svelte';
import type { ShootState } from '../state/shoot-state.svelte';
import type { SourcesState } from '../state/sources-state.svelte';
import type { Stage } from '../state/stages';

/** While an editor drags the program's edge, nothing is asked for. */
const SETTLED_MS = 400;
const READINGS_ON_THE_WAY = 40;

/**
 * Keeps what is known of the sources in step with the shoot: read when what it follows from has changed, or was measured;
 * measured when Master is looked at and it is not what it should be. While only a person's passages are played, goes from one
 * to the next.
 */
export function readsSources(page: {
	readonly shoot: ShootState;
	readonly sources: SourcesState;
	readonly transport: Transport;
	readonly stage: () => Stage;
}): void {
	const { shoot, sources, transport } = page;
	const isMeasuring = $derived(sources.job !== undefined);
	/** What is known by then is read on the way, some times. */
	const reached = $derived(Math.floor((sources.job?.share ?? 0) * READINGS_ON_THE_WAY));
	$effect(() => {
		const { lineUpId } = shoot;
		// What it follows from.
		void [
			isMeasuring,
			reached,
			shoot.shoot?.clips,
			shoot.shoot?.people,
			shoot.program?.inFlicks,
			shoot.program?.outFlicks
		];
		if (lineUpId === undefined) return;
		const timer = setTimeout(() => void untrack(() => sources.read(lineUpId)), SETTLED_MS);
		return () => clearTimeout(timer);
	});
	$effect(() => {
		if (page.stage() !== 'master' || sources.isCurrent || isMeasuring || sources.hasFailed) return;
		// Where clips are still being read or laid, that comes first.
		if (shoot.runningJobs.some((job) => job.kind === 'gather' || job.kind === 'line-up')) return;
		untrack(() => void sources.measure());
	});
	$effect(() => {
		if (page.stage() !== 'master' || !sources.playsOnlyPerson || !transport.playing) return;
		const at = transport.shownFlicks;
		untrack(() => {
			const { passages } = sources;
			if (passages.some((one) => at >= one.inFlicks && at < one.outFlicks)) return;
			const next = passages.find((one) => one.inFlicks > at);
			if (next) transport.goTo(next.inFlicks);
			else transport.pause();
		});
	});
}
