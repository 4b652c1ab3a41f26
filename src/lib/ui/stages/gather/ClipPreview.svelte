<script lang="ts">
	import Pause from '@lucide/svelte/icons/pause';
	import Play from '@lucide/svelte/icons/play';
	import { onMount, untrack } from 'svelte';
	import { atOwnTime, type Clip } from '../../../core/shoot/clip';
	import { flicksToSeconds, secondsToFlicks } from '../../../core/time/flicks';
	import { lengthWords } from '../../controls/words';
	import ClipPicture from '../../playback/ClipPicture.svelte';
	import { type HeardChannel, Transport, useTransport } from '../../playback/transport.svelte';

	/** A clip seen and heard by itself, whether it has a place on a line-up or not. */
	let { clip }: { clip: Clip } = $props();

	const lineUp = useTransport();
	const transport = new Transport();
	const STEP_SECONDS = 0.04;

	const hasPicture = $derived(clip.parts.some((part) => part.picture));
	const hasSound = $derived(clip.parts.some((part) => part.sound));
	const shown = $derived(clip.parts.find((part) => part.picture)?.picture?.shown);
	const aspect = $derived(shown ? shown.width / shown.height : 16 / 9);
	const lengthSeconds = $derived(flicksToSeconds(clip.durationFlicks));
	/** What is played: another answer of the server about the same files must not interrupt it. */
	const material = $derived(
		JSON.stringify([clip.id, clip.durationFlicks, clip.parts.map((part) => [part.identity, part.isMissing])])
	);

	onMount(() => () => void transport.close());

	$effect(() => {
		if (!material) return;
		untrack(() => {
			if (transport.playing) transport.pause();
			transport.setReady('heard');
			transport.setMaterial([atOwnTime(clip)], { inFlicks: 0, outFlicks: clip.durationFlicks });
			transport.setHeard(allChannels());
			transport.goTo(0);
		});
	});
	// One of the two is heard at a time.
	$effect(() => {
		if (transport.playing && untrack(() => lineUp.playing)) lineUp.pause();
	});
	$effect(() => {
		if (lineUp.playing && untrack(() => transport.playing)) transport.pause();
	});

	/** Two channels in an ear each; more, or one, in the middle. */
	function allChannels(): readonly HeardChannel[] {
		const count = Math.max(0, ...clip.parts.map((part) => part.sound?.channels ?? 0));
		return Array.from({ length: count }, (_, channel) => ({
			deviceId: clip.deviceId,
			channel,
			gainDb: count > 2 ? -10 * Math.log10(count) : 0,
			pan: count === 2 ? 2 * channel - 1 : 0
		}));
	}
</script>

<div class="mt-2 flex flex-col gap-1.5" data-testid="clip-preview">
	{#if hasPicture}<div style:aspect-ratio={aspect} class="max-h-40 w-full bg-ground">
			<ClipPicture {clip} {transport} {aspect} />
		</div>{/if}
	<div class="flex items-center gap-2">
		<button
			class="grid size-7 shrink-0 cursor-pointer place-content-center rounded-md border border-line hover:border-accent"
			aria-label={transport.playing ? `Pause ${clip.name}` : `Play ${clip.name}`}
			title={hasSound ? undefined : 'It has no sound'}
			data-testid="clip-play"
			onclick={() => void transport.toggle()}
			>{#if transport.playing}<Pause size={14} />{:else}<Play size={14} />{/if}</button
		>
		<input
			type="range"
			class="min-w-0 flex-1 accent-accent"
			min="0"
			max={lengthSeconds}
			step={STEP_SECONDS}
			aria-label="Place in {clip.name}, in seconds"
			value={flicksToSeconds(transport.shownFlicks)}
			oninput={(event) => transport.goTo(secondsToFlicks(Number(event.currentTarget.value)))}
		/>
		<span class="times shrink-0 text-xs text-quiet" data-testid="clip-place"
			>{flicksToSeconds(transport.shownFlicks).toFixed(1)} of {lengthWords(clip.durationFlicks)}</span
		>
	</div>
	{#if transport.problem}<p class="text-xs text-attention" role="alert">{transport.problem}</p>{/if}
</div>
