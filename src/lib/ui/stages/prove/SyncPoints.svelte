<script lang="ts">
	import Eye from '@lucide/svelte/icons/eye';
	import Flag from '@lucide/svelte/icons/flag';
	import Trash2 from '@lucide/svelte/icons/trash-2';
	import { Button } from 'flowbite-svelte';
	import { checkPoints } from '../../../core/proof/point-disagreement';
	import { clipAt } from '../../../core/shoot/lookup';
	import type { PlacedClip } from '../../../core/shoot/clip';
	import { flicksToSeconds } from '../../../core/time/flicks';
	import { countWords, lengthWords, signedWords, timecodeWords } from '../../controls/words';
	import { markHere, pointName } from '../../frame/prove-keys';
	import { useTransport } from '../../playback/transport.svelte';
	import { useScoreView } from '../../score/score-view.svelte';
	import { useListening } from '../../state/listening.svelte';
	import { useSources } from '../../state/sources-state.svelte';
	import { useProof } from '../../state/proof-state.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';

	const shoot = useShoot();
	const transport = useTransport();
	const proof = useProof();
	const view = useScoreView();
	const listening = useListening();
	const sources = useSources();
	const context = { shoot, transport, view, proof, listening, sources, stage: 'prove' as const, help: () => undefined };

	const EDGES = [
		['in point', 'in points'],
		['out point', 'out points'],
		['clip start', 'clip starts']
	] as const;

	let name = $state('');
	let edge = $state<(typeof EDGES)[number][0]>('in point');

	const loose = $derived(shoot.shoot.clips.filter((clip) => !clip.placement && clip.syncPoints.length > 0));
	const events = $derived(
		checkPoints(shoot.shoot.clips.filter((clip): clip is PlacedClip => clip.placement?.lineUpId === shoot.lineUpId))
	);
	const clip = $derived(shoot.selectedClip);
	const here = $derived(clip?.placement ? clipAt(shoot.placed, clip.deviceId, transport.shownFlicks) : undefined);
	const suggested = $derived(pointName({ shoot, proof }));
	/** Marks of one name in several clips: what can be lined up by them. */
	const shared = $derived.by(() => {
		const names = new Map<string, Set<string>>();
		for (const one of shoot.shoot.clips)
			for (const point of one.syncPoints) {
				const key = point.name.trim().toLowerCase();
				names.set(key, (names.get(key) ?? new Set()).add(one.id));
			}
		return [...names.values()].filter((clips) => clips.size > 1).length;
	});
	/** Each loose mark with those of placed clips that it could be laid onto. */
	const pairs = $derived(
		loose.flatMap((from) =>
			from.syncPoints.flatMap((point) => events.flatMap((event) => event.points.map((onto) => ({ from, point, onto }))))
		)
	);

	function mark(sense: 'heard' | 'seen'): void {
		void markHere(context, sense, name.trim() || suggested);
	}

	function byPoints(keepsPlaces: boolean): void {
		void shoot.edit({ kind: 'line-up-by-points', way: 'sync point', keepsPlaces });
	}

	/** The selected clip by an edge, onto the one that it is held against. */
	const edgePartner = $derived(
		proof.onto ??
			shoot.placed.find((one) => one.id === proof.chosenOntoId) ??
			shoot.placed.find((one) => one.id !== clip?.id)
	);
	let partnerId = $state<string>();
	const partner = $derived(shoot.placed.find((one) => one.id === partnerId) ?? edgePartner);
</script>

<div class="flex flex-col gap-2">
	<div>
		<h2 class="text-base">Sync points</h2>
		<p class="text-xs text-quiet">Mark one event in two or more clips under one name, then line up by it.</p>
		<div class="mt-1 flex items-center gap-1.5">
			<input
				class="w-24 rounded-md border border-line bg-surface px-2 py-1 text-sm"
				aria-label="Name of the point"
				placeholder={suggested}
				bind:value={name}
				maxlength="100"
			/>
			<Button
				size="xs"
				color="alternative"
				disabled={!here}
				onclick={() => mark('heard')}
				title="At the nearest attack (M)"
				data-testid="mark-here"
				><Flag size={13} class="mr-1" />Mark {here ? `in ${shoot.device(here.deviceId)?.badge}` : ''}</Button
			>
			<Button
				size="xs"
				color="alternative"
				disabled={!here?.parts[0]?.picture}
				onclick={() => mark('seen')}
				title="What is seen in the picture, exactly here (Shift M)"><Eye size={13} class="mr-1" />seen</Button
			>
		</div>
	</div>
	{#if events.length > 0 || loose.length > 0}
		<ul class="flex flex-col gap-1.5 text-sm" data-testid="sync-points">
			{#each events as event (event.name)}
				<li>
					<span class="font-semibold">{event.name}</span>
					{#if event.points.length > 1}<span
							class="times text-xs"
							class:text-attention={event.spreadSeconds > 0.02}
							class:text-quiet={event.spreadSeconds <= 0.02}>apart by {(1000 * event.spreadSeconds).toFixed(2)} ms</span
						>{/if}
					{#each event.points as one (one.point.id)}
						{@const own = shoot.shoot.clips.find((other) => other.id === one.clipId)!}
						<div class="flex items-center gap-1.5 pl-1">
							<span class="badge" style:--hue={shoot.hue(own.deviceId)}>{shoot.device(own.deviceId)?.badge}</span>
							<button
								class="times text-xs text-accent underline"
								onclick={() => {
									shoot.selectedClipId = own.id;
									transport.goTo(Math.round(one.timelineFlicks));
									view.reveal(one.timelineFlicks);
								}}>{timecodeWords(one.timelineFlicks, shoot.shoot.rate)}</button
							>
							{#if one.point.sense === 'seen'}<Eye size={12} aria-label="seen" />{/if}
							<span class="times min-w-0 flex-1 truncate text-right text-xs text-quiet"
								>{event.points.length > 1 ? `${signedWords(1000 * one.offSeconds)} ms` : own.name}</span
							>
							{@render remove(one.point)}
						</div>
					{/each}
				</li>
			{/each}
			{#each loose as own (own.id)}
				{#each own.syncPoints as point (point.id)}
					<li class="flex items-center gap-1.5">
						<span class="badge" style:--hue={shoot.hue(own.deviceId)}>{shoot.device(own.deviceId)?.badge}</span>
						<span class="min-w-0 flex-1 truncate">{point.name}</span>
						<span class="times text-xs text-quiet">{flicksToSeconds(point.mediaFlicks).toFixed(2)} s</span>
						{@render remove(point)}
					</li>
				{/each}
			{/each}
		</ul>
	{/if}
	{#each pairs.slice(0, 6) as { from, point, onto } (`${point.id} ${onto.point.id}`)}
		<Button
			size="xs"
			class="w-full"
			onclick={() => shoot.edit({ kind: 'place-by-sync-point', pointId: point.id, ontoPointId: onto.point.id })}
			data-testid="place-by-point"
		>
			Lay {point.name} of {from.name} onto {onto.point.name} of {shoot.device(
				shoot.shoot.clips.find((one) => one.id === onto.clipId)?.deviceId ?? ''
			)?.badge}
		</Button>
	{/each}
	{#if shared > 0}
		<div class="flex flex-col gap-1">
			<Button size="xs" color="alternative" onclick={() => byPoints(true)}
				>Place what has no place by {countWords(shared, 'event')}</Button
			>
			<Button size="xs" color="alternative" onclick={() => byPoints(false)}
				>Line all marked clips up by points alone</Button
			>
		</div>
	{/if}
	<div class="border-t border-line pt-2">
		<h3 class="text-sm">In and out points</h3>
		{#if clip}
			<p class="times text-xs">
				in {clip.inFlicks === undefined ? '–' : lengthWords(clip.inFlicks)} · out {clip.outFlicks === undefined
					? '–'
					: lengthWords(clip.outFlicks)}
				{#if clip.inFlicks !== undefined || clip.outFlicks !== undefined}<button
						class="text-accent underline"
						onclick={() => shoot.edit({ kind: 'set-in-out', clipId: clip.id, inFlicks: null, outFlicks: null })}
						>clear</button
					>{/if}
			</p>
			<div class="mt-1 flex flex-wrap items-center gap-1.5 text-xs">
				<span>Place by its</span>
				<select
					class="rounded border border-line bg-surface py-0.5 pr-6 pl-1.5 text-xs"
					aria-label="Which edge"
					bind:value={edge}
				>
					{#each EDGES as [one, words] (one)}<option value={one}>{words}</option>{/each}
				</select>
				<span>onto</span>
				<select
					class="max-w-32 rounded border border-line bg-surface py-0.5 pr-6 pl-1.5 text-xs"
					aria-label="Onto which clip"
					value={partner?.id}
					onchange={(event) => (partnerId = event.currentTarget.value)}
				>
					{#each shoot.placed.filter((one) => one.id !== clip.id) as one (one.id)}<option value={one.id}
							>{shoot.device(one.deviceId)?.badge} · {one.name}</option
						>{/each}
				</select>
				<Button
					size="xs"
					color="alternative"
					disabled={!partner || clip.placement?.isLocked}
					data-testid="place-by-edge"
					onclick={() => shoot.edit({ kind: 'place-by-edge', clipId: clip.id, ontoClipId: partner!.id, way: edge })}
					>Place it there</Button
				>
			</div>
		{:else}<p class="text-xs text-quiet">Choose a clip; I and O set its points at the playhead.</p>{/if}
	</div>
</div>

{#snippet remove(point: { readonly id: string; readonly name: string })}
	<button
		aria-label="Remove the point {point.name}"
		class="text-quiet hover:text-attention"
		onclick={() => shoot.edit({ kind: 'drop-sync-point', pointId: point.id })}><Trash2 size={14} /></button
	>
{/snippet}
