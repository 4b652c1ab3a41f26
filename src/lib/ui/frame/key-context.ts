import type { Transport } from '../playback/transport.svelte';
import type { ScoreView } from '../score/score-view.svelte';
import type { Listening } from '../state/listening.svelte';
import type { ProofState } from '../state/proof-state.svelte';
import type { ShootState } from '../state/shoot-state.svelte';
import type { SourcesState } from '../state/sources-state.svelte';
import type { Stage } from '../state/stages';

/** What keys work on. */
export interface KeyContext {
	readonly shoot: ShootState;
	readonly transport: Transport;
	readonly view: ScoreView;
	readonly proof: ProofState;
	readonly listening: Listening;
	readonly sources: SourcesState;
	readonly stage: Stage;
	help(): void;
}
