<script lang="ts">
	import { Flag, Trash2 } from '@lucide/svelte';
	import { Button } from 'flowbite-svelte';
	import { flicksToSeconds } from '../../../core/time/flicks';
	import { clipAt, toMedia, toTimeline } from '../../../core/shoot/shoot';
	import { timecodeWords } from '../../controls/words';
	import { useTransport } from '../../playback/transport.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';

	const shoot = useShoot();
	const transport = useTransport();

	let name = $state('Clap');

	const points = $derived(shoot.shoot.clips.flatMap((clip) => clip.syncPoints.map((point) => ({ clip, point }))));
	/** Points of clips without a place, each with the points of placed clips it could be laid onto. */
	const loose = $derived(points.filter((one) => !one.clip.placement));
	const fixed = $derived(points.filter((one) => one.clip.placement?.lineUpId === shoot.lineUpId));
	const here = $derived.by(() => {
		const { selectedClip } = shoot;
		if (!selectedClip?.placement) return undefined;
		return clipAt(shoot.placed, selectedClip.deviceId, transport.shownFlicks);
	});

	function mark(): void {
		if (!here) return;
		const mediaFlicks = Math.max(0, Math.round(toMedia(here.placement, transport.shownFlicks)));
		void shoot.edit({ kind: 'add-sync-point', clipId: here.id, mediaFlicks, name: name.trim() || 'Point' });
	}
</script>

<div>
	<h2 class="text-base">Sync points</h2>
	<p class="text-sm text-quiet">Mark one event in two clips; line one up with the other by it.</p>
	<div class="mt-1.5 flex items-center gap-1.5">
		<input
			class="w-24 rounded-md border border-line bg-surface px-2 py-1 text-sm"
			aria-label="Name of the point"
			bind:value={name}
			maxlength="100"
		/>
		<Button size="xs" color="alternative" disabled={!here} onclick={mark} data-testid="mark-here"
			><Flag size={13} class="mr-1" />Mark {here ? `in ${shoot.device(here.deviceId)?.badge} here` : 'here'}</Button
		>
	</div>
	{#if !here}<p class="mt-1 text-xs text-quiet">Choose a placed clip that runs at the playhead to mark in it.</p>{/if}
	<ul class="mt-2 flex flex-col gap-1 text-sm" data-testid="sync-points">
		{#each points as { clip, point } (point.id)}
			<li class="flex items-center gap-1.5">
				<span class="badge" style:--hue={shoot.hue(clip.deviceId)}>{shoot.device(clip.deviceId)?.badge}</span>
				<span class="min-w-0 flex-1 truncate">{point.name}</span>
				{#if clip.placement}
					<button
						class="times text-xs text-accent underline"
						onclick={() => transport.goTo(Math.round(toTimeline(clip.placement!, point.mediaFlicks)))}
						>{timecodeWords(toTimeline(clip.placement, point.mediaFlicks), shoot.shoot.rate)}</button
					>
				{:else}<span class="times text-xs text-quiet">{flicksToSeconds(point.mediaFlicks).toFixed(2)} s</span>{/if}
				<button
					aria-label="Remove the point {point.name}"
					class="text-quiet hover:text-attention"
					onclick={() => shoot.edit({ kind: 'drop-sync-point', pointId: point.id })}><Trash2 size={14} /></button
				>
			</li>
		{/each}
	</ul>
	{#each loose as from (from.point.id)}
		{#each fixed as onto (onto.point.id)}
			<Button
				size="xs"
				class="mt-2 w-full"
				onclick={() => shoot.edit({ kind: 'place-by-sync-point', pointId: from.point.id, ontoPointId: onto.point.id })}
				data-testid="place-by-point"
			>
				Lay {from.point.name} of {from.clip.name} onto {onto.point.name} of {shoot.device(onto.clip.deviceId)?.badge}
			</Button>
		{/each}
	{/each}
</div>
