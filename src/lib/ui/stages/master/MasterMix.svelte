<script lang="ts">
	import Ear from '@lucide/svelte/icons/ear';
	import { Button } from 'flowbite-svelte';
	import { isSameChannel } from '../../../core/master/report';
	import type { MasterChannel } from '../../../core/shoot/decisions';
	import { signedDecibels } from '../../controls/words';
	import { useListening } from '../../state/listening.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { changeMaster } from './master-choice';
	import ApartMicrophones from './ApartMicrophones.svelte';
	import MasterChannelRow from './MasterChannelRow.svelte';
	import Meters from './Meters.svelte';
	import Opening from './Opening.svelte';

	/** What the audience hears: its channels, their levels and sides; and what is heard now. */
	const shoot = useShoot();
	const listening = useListening();
	const master = $derived(shoot.master);

	function change(changed: MasterChannel, part: Partial<MasterChannel>): void {
		changeMaster(shoot, (now) => now.map((one) => (isSameChannel(one, changed) ? { ...one, ...part } : one)));
	}
</script>

<section class="panel flex flex-col gap-2 p-3" aria-label="Master audio">
	<h2 class="text-base">What the audience hears</h2>
	{#if master.length > 0}
		<ul class="flex flex-col gap-1 text-sm" data-testid="master">
			{#each master as one (`${one.deviceId} ${one.channel}`)}
				<MasterChannelRow {one} change={(part) => change(one, part)} />
			{/each}
		</ul>
		<Opening />
		<ApartMicrophones />
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
