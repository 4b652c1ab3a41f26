<script lang="ts">
	import Wall from '../playback/Wall.svelte';
	import { useShoot } from '../state/shoot-state.svelte';
	import Repairs from './prove/Repairs.svelte';
	import SharpSounds from './prove/SharpSounds.svelte';
	import StrayViewer from './prove/StrayViewer.svelte';
	import SyncPoints from './prove/SyncPoints.svelte';

	const shoot = useShoot();
	const stray = $derived(shoot.selectedClip && !shoot.selectedClip.placement ? shoot.selectedClip : undefined);
</script>

{#if shoot.placed.length === 0}
	<p class="m-auto max-w-md p-10 text-center text-quiet">
		There is nothing to prove yet. <a class="text-accent underline" href="/shoots/{shoot.shootId}/line-up">Line up</a> the
		clips first.
	</p>
{:else}
	<div class="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_300px_300px] gap-3">
		<section class="grid min-h-0 gap-3" class:grid-cols-2={stray} aria-label="One instant on all angles">
			{#if stray}<StrayViewer clip={stray} />{/if}
			<div class="min-h-0"><Wall /></div>
		</section>
		<section class="panel min-h-0 overflow-auto p-3" aria-label="Repairs"><Repairs /></section>
		<section class="panel flex min-h-0 flex-col gap-4 overflow-auto p-3" aria-label="Sharp sounds and sync points">
			<SharpSounds />
			<SyncPoints />
		</section>
	</div>
{/if}
