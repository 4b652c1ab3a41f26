<script lang="ts">
	import type { MasterChannel } from '../../../core/shoot/decisions';
	import { flicksToSeconds } from '../../../core/time/flicks';
	import { millisecondsWords, signedDecibels } from '../../controls/words';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { channelWords } from './master-choice';

	/** A channel of the master: level, side, polarity, low cut, and by how much it is moved. */
	let { one, change }: { one: MasterChannel; change: (part: Partial<MasterChannel>) => void } = $props();

	const shoot = useShoot();
	const LOW_CUTS_HZ = [0, 40, 60, 80, 100, 120, 160];

	const name = $derived(channelWords(shoot, one));
</script>

<li class="flex flex-col gap-0.5" data-testid="master-channel">
	<div class="flex items-center gap-1.5">
		<span class="badge" style:--hue={shoot.hue(one.deviceId)}>{shoot.device(one.deviceId)?.badge}</span>
		<span class="min-w-0 flex-1 truncate">{name}</span>
		<input
			type="range"
			min="-30"
			max="12"
			step="0.5"
			value={one.gainDb}
			aria-label="Level of {name} in dB"
			class="w-16 accent-accent"
			onchange={(event) => change({ gainDb: Number(event.currentTarget.value) })}
		/>
		<span class="times w-14 text-right text-xs">{signedDecibels(one.gainDb)}</span>
		<select
			class="rounded border border-line bg-surface py-0 pr-6 pl-1 text-xs"
			aria-label="Side of {name}"
			value={`${one.pan}`}
			onchange={(event) => change({ pan: Number(event.currentTarget.value) })}
		>
			<option value="-1">left</option><option value="0">both</option><option value="1">right</option>
			{#if ![-1, 0, 1].includes(one.pan)}<option value={`${one.pan}`}>{one.pan.toFixed(2)}</option>{/if}
		</select>
	</div>
	<div class="flex items-center gap-2 pl-7 text-xs text-quiet">
		<label class="flex items-center gap-1">
			<input
				type="checkbox"
				class="size-3.5 rounded border-line text-accent"
				checked={one.isInverted}
				aria-label="Turn the polarity of {name}"
				onchange={(event) => change({ isInverted: event.currentTarget.checked })}
			/>
			polarity turned
		</label>
		<label class="flex items-center gap-1">
			low cut
			<select
				class="rounded border border-line bg-surface py-0 pr-6 pl-1 text-xs"
				aria-label="Low cut of {name}"
				value={`${one.lowCutHz}`}
				onchange={(event) => change({ lowCutHz: Number(event.currentTarget.value) })}
			>
				{#each LOW_CUTS_HZ as hertz (hertz)}<option value={`${hertz}`}>{hertz === 0 ? 'none' : `${hertz} Hz`}</option
					>{/each}
				{#if !LOW_CUTS_HZ.includes(one.lowCutHz)}<option value={`${one.lowCutHz}`}>{one.lowCutHz} Hz</option>{/if}
			</select>
		</label>
		{#if one.shiftFlicks !== 0}
			<span class="times" data-testid="shift"
				>{millisecondsWords(Math.abs(flicksToSeconds(one.shiftFlicks)))}
				{one.shiftFlicks > 0 ? 'later' : 'earlier'}</span
			>
			<button
				class="text-accent underline"
				aria-label="Put {name} back in its place"
				onclick={() => change({ shiftFlicks: 0 })}>put back</button
			>
		{/if}
	</div>
</li>
