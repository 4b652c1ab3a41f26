<script lang="ts">
	import type { Speech } from '../../../core/shoot/person';
	import { flicksToSeconds, secondsToFlicks } from '../../../core/time/flicks';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { useSources } from '../../state/sources-state.svelte';
	import { correctEdge, giveTo } from '../../score/correct-speech';

	/** A chosen passage: when it begins and ends, whose it is, and how sure that is. All of it by keyboard. */
	let { speech }: { speech: Speech } = $props();

	const shoot = useShoot();
	const sources = useSources();
	const names = $derived(shoot.shoot.people);

	async function setEdge(edge: 'inFlicks' | 'outFlicks', text: string): Promise<void> {
		const seconds = Number(text);
		if (text === '' || !Number.isFinite(seconds)) return;
		await correctEdge(shoot, sources, speech, edge, Math.round(secondsToFlicks(seconds)));
	}
</script>

<div class="rounded border border-line p-2 text-xs" data-testid="chosen-speech">
	<p class="mb-1 font-semibold">Chosen passage</p>
	<div class="flex flex-wrap items-center gap-2">
		{#each [['inFlicks', 'from'], ['outFlicks', 'to']] as const as [edge, label] (edge)}
			<label class="flex items-center gap-1"
				>{label}
				<input
					type="number"
					step="0.01"
					class="times w-20 rounded border border-line bg-surface px-1 py-0 text-xs"
					aria-label="{label}, in seconds"
					value={flicksToSeconds(speech[edge]).toFixed(2)}
					onchange={(event) => void setEdge(edge, event.currentTarget.value)}
				/> s</label
			>
		{/each}
		<label class="flex items-center gap-1"
			>spoken by
			<select
				class="rounded border border-line bg-surface py-0 pr-6 pl-1 text-xs"
				aria-label="Spoken by"
				value={speech.personId}
				onchange={(event) => void giveTo(shoot, sources, speech, event.currentTarget.value)}
			>
				{#each names as person (person.id)}<option value={person.id}>{person.name}</option>{/each}
				<option value="">nobody</option>
			</select></label
		>
		<span class="text-quiet">{speech.isByHand ? 'by hand' : `${Math.round(100 * speech.confidence)}% sure`}</span>
	</div>
</div>
