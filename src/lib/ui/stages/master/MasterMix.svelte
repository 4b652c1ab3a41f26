<script lang="ts">
	import Ear from '@lucide/svelte/icons/ear';
	import { Button } from 'flowbite-svelte';
	import type { MasterChannel } from '../../../core/shoot/decisions';
	import { signedDecibels } from '../../controls/words';
	import { useListening } from '../../state/listening.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { channelWords, chooseMaster } from './master-choice';
	import Meters from './Meters.svelte';

	/** What the audience hears: its channels, their levels and sides; and what is heard now. */
	const shoot = useShoot();
	const listening = useListening();
	const master = $derived(shoot.master);

	function change({ deviceId, channel }: MasterChannel, part: Partial<MasterChannel>): void {
		void chooseMaster(
			shoot,
			master.map((one) => (one.deviceId === deviceId && one.channel === channel ? { ...one, ...part } : one))
		);
	}
</script>

<section class="panel flex flex-col gap-2 p-3" aria-label="Master audio">
	<h2 class="text-base">What the audience hears</h2>
	{#if master.length > 0}
		<ul class="flex flex-col gap-1 text-sm" data-testid="master">
			{#each master as one (`${one.deviceId} ${one.channel}`)}
				{@const name = channelWords(shoot, one)}
				<li class="flex items-center gap-1.5">
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
						onchange={(event) => change(one, { gainDb: Number(event.currentTarget.value) })}
					/>
					<span class="times w-14 text-right text-xs">{signedDecibels(one.gainDb)}</span>
					<select
						class="rounded border border-line bg-surface py-0 pr-6 pl-1 text-xs"
						aria-label="Side of {name}"
						value={`${one.pan}`}
						onchange={(event) => change(one, { pan: Number(event.currentTarget.value) })}
					>
						<option value="-1">left</option><option value="0">both</option><option value="1">right</option>
						{#if ![-1, 0, 1].includes(one.pan)}<option value={`${one.pan}`}>{one.pan.toFixed(2)}</option>{/if}
					</select>
				</li>
			{/each}
		</ul>
	{:else}
		<p class="text-sm text-attention">Nothing: the movie would be silent. Tick at least one channel.</p>
	{/if}
	<div class="flex items-center gap-3">
		<Button size="xs" color="alternative" disabled={!listening.audition} onclick={() => listening.listenTo(undefined)}
			><Ear size={14} class="mr-1" /> Back to the master</Button
		>
		<label class="flex items-center gap-1.5 text-xs">
			<input
				type="checkbox"
				class="size-4 rounded border-line text-accent"
				checked={listening.matches}
				onchange={() => listening.toggleMatching()}
			/>
			as loud as the master{#if listening.audition && listening.matches}<span class="times"
					>({signedDecibels(listening.matchingDb)})</span
				>{/if}
		</label>
	</div>
	<Meters />
</section>
