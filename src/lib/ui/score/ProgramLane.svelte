<script lang="ts">
	import { timecodeWords } from '../controls/words';
	import { useTransport } from '../playback/transport.svelte';
	import { useShoot } from '../state/shoot-state.svelte';
	import { useScoreView } from './score-view.svelte';

	/** The program: shots as ribbons; their beginnings can be dragged. */
	let { height }: { height: number } = $props();

	const shoot = useShoot();
	const transport = useTransport();
	const view = useScoreView();

	let dragged = $state.raw<{ readonly callId: string; readonly flicks: number }>();
	/** Below this width a ribbon has room for its badge only. */
	const NAME_PIXELS = 90;

	/** What begins before the screen does still shows its name. */
	const OFF_SCREEN_PIXELS = -4;

	function beginOf(callId: string, flicks: number): number {
		return view.x(dragged?.callId === callId ? dragged.flicks : flicks);
	}

	function take(event: PointerEvent, callId: string, flicks: number): void {
		event.stopPropagation();
		(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
		shoot.selectedCallId = callId;
		dragged = { callId, flicks };
	}

	function drag(event: PointerEvent): void {
		if (!dragged) return;
		const lane = (event.currentTarget as HTMLElement).parentElement!.getBoundingClientRect();
		dragged = { ...dragged, flicks: view.flicksAt(event.clientX - lane.left) };
	}

	async function drop(): Promise<void> {
		const done = dragged;
		if (done) {
			await shoot.editLineUp((lineUpId) => ({
				kind: 'move-call',
				lineUpId,
				callId: done.callId,
				atFlicks: Math.round(done.flicks)
			}));
		}
		dragged = undefined;
	}
</script>

<div class="relative overflow-hidden" style:height="{height}px" data-testid="program-lane">
	{#each shoot.shots as shot, index (shot.callId)}
		{@const device = shoot.device(shot.deviceId)}
		{@const next = shoot.shots[index + 1]}
		{@const from = beginOf(shot.callId, shot.inFlicks)}
		{@const left = Math.max(OFF_SCREEN_PIXELS, from)}
		{@const to = next ? beginOf(next.callId, next.inFlicks) : view.x(shot.outFlicks)}
		<button
			class="shot absolute top-0.5 flex h-[22px] items-center gap-1 overflow-hidden rounded-sm border px-1 text-xs"
			class:chosen={shoot.selectedCallId === shot.callId}
			style:--hue={shoot.hue(shot.deviceId)}
			style:left="{left}px"
			style:width="{Math.max(2, to - left)}px"
			aria-label="Shot {index + 1}: {device?.badge} {device?.name}, from {timecodeWords(
				shot.inFlicks,
				shoot.shoot.rate
			)}"
			aria-pressed={shoot.selectedCallId === shot.callId}
			data-testid="shot"
			data-angle={device?.badge}
			data-in={shot.inFlicks}
			onclick={() => {
				shoot.selectedCallId = shot.callId;
				if (!transport.playing) transport.goTo(shot.inFlicks);
			}}
		>
			<span class="badge">{device?.badge}</span>
			{#if to - from > NAME_PIXELS}<span class="truncate">{device?.name}</span>{/if}
		</button>
		{#if index > 0}
			<!-- The pointer works here; the same is done by the keys [ and ] on the chosen shot. -->
			<!-- svelte-ignore a11y_no_static_element_interactions -->
			<span
				class="absolute top-0 h-full w-2 -translate-x-1 cursor-ew-resize touch-none"
				style:left="{from}px"
				title="Drag to move this call"
				data-testid="call-handle"
				onpointerdown={(event) => take(event, shot.callId, shot.inFlicks)}
				onpointermove={drag}
				onpointerup={drop}
			></span>
		{/if}
	{/each}
</div>

<style>
	.shot {
		background: color-mix(in srgb, var(--hue) 22%, var(--surface));
		border-color: var(--hue);
		cursor: pointer;
	}
	.chosen {
		outline: 2px solid var(--accent);
		outline-offset: -2px;
		font-weight: 600;
	}
</style>
