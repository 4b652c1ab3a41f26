<script lang="ts">
	import { onMount } from 'svelte';
	import { useTransport } from '../../playback/transport.svelte';

	/** How loud what is heard is at the moment: a bar each, and the number. */
	const { meter } = useTransport();
	onMount(() => meter.watch());

	const LOWEST = -60;
	const share = (value: number | undefined, highest: number) =>
		value === undefined ? 0 : Math.max(0, Math.min(1, (value - LOWEST) / (highest - LOWEST)));
	const words = (value: number | undefined, unit: string) =>
		value === undefined ? `– ${unit}` : `${value.toFixed(1).replace('-', '−')} ${unit}`;
	const rows = $derived([
		{
			name: 'Loudness',
			words: words(meter.momentaryLufs, 'LUFS'),
			share: share(meter.momentaryLufs, 0),
			isHigh: false
		},
		{
			name: 'True peak',
			words: words(meter.truePeakDbtp, 'dBTP'),
			share: share(meter.truePeakDbtp, 3),
			isHigh: (meter.truePeakDbtp ?? LOWEST) > -1
		}
	]);
</script>

<dl class="grid grid-cols-[4.5rem_1fr_6rem] items-center gap-x-2 gap-y-1 text-xs" data-testid="meters">
	{#each rows as row (row.name)}
		<dt>{row.name}</dt>
		<dd class="h-2 overflow-hidden rounded bg-line" aria-hidden="true">
			<span
				class="block h-full"
				class:bg-good={!row.isHigh}
				class:bg-attention={row.isHigh}
				style:width="{100 * row.share}%"
			></span>
		</dd>
		<dd class="times text-right" class:text-attention={row.isHigh}>{row.words}</dd>
	{/each}
</dl>
