<script lang="ts">
	import { useShoot } from '../../state/shoot-state.svelte';
	import MasterMix from './MasterMix.svelte';
	import People from './People.svelte';
	import RankedSources from './RankedSources.svelte';
	import StandIns from './StandIns.svelte';

	const shoot = useShoot();
	const isAnything = $derived(shoot.placed.some((clip) => clip.parts.some((part) => part.sound)));
</script>

{#if !isAnything}
	<p class="m-auto max-w-md p-10 text-center text-quiet">
		Sources can be compared once they are <a class="text-accent underline" href="/shoots/{shoot.shootId}/line-up"
			>lined up</a
		>.
	</p>
{:else}
	<div class="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_360px] gap-3">
		<RankedSources />
		<div class="flex min-h-0 flex-col gap-3 overflow-auto">
			<MasterMix />
			<StandIns />
			<People />
		</div>
	</div>
{/if}
