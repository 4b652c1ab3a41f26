<script lang="ts">
	import { strayWords } from '../controls/stray-words';
	import { useShoot } from '../state/shoot-state.svelte';

	/** Clips without a place, under the lanes: each with its reason and a next step. */
	const shoot = useShoot();
</script>

{#if shoot.strays.length > 0}
	<ul
		class="flex shrink-0 items-center gap-2 overflow-x-auto border-t border-line px-2 py-1 text-xs"
		aria-label="Strays"
		data-testid="shelf"
	>
		<li class="font-semibold text-attention">Not placed</li>
		{#each shoot.strays as clip (clip.id)}
			{@const words = strayWords(clip.stray!)}
			<li>
				<a
					class="panel flex items-center gap-1.5 border-dashed px-2 py-0.5 whitespace-nowrap"
					class:chosen={clip.id === shoot.selectedClipId}
					title="{words.why} {words.next}"
					href="/shoots/{shoot.shootId}/prove"
					onclick={() => (shoot.selectedClipId = clip.id)}
				>
					<span class="badge" style:--hue={shoot.hue(clip.deviceId)}>{shoot.device(clip.deviceId)?.badge}</span>
					{clip.name}: {clip.stray} <span class="text-accent underline">mark a sync point</span>
				</a>
			</li>
		{/each}
	</ul>
{/if}

<style>
	.chosen {
		outline: 2px solid var(--accent);
	}
</style>
