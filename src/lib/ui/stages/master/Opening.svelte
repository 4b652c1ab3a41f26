<script lang="ts">
	import { evenLevels } from '../../../core/master/even-levels';
	import { type Mix, USUAL_MIX } from '../../../core/shoot/decisions';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { useSources } from '../../state/sources-state.svelte';
	import { changeMaster, setMix } from './master-choice';

	/** Microphones that open by who speaks, and voices of one level. */
	const shoot = useShoot();
	const sources = useSources();
	const CLOSED_DB = [-6, -10, -15, -20, -30];

	const mix: Mix = $derived(shoot.lineUp?.mix ?? USUAL_MIX);
	const canEven = $derived(
		sources.report && evenLevels(shoot.master, shoot.shoot.people, sources.report) !== undefined
	);
	const opens = $derived(
		sources.mixed.intervals.some((one) => one.turn === 0 && one.channels.some((channel) => channel.curve))
	);
	/** Nothing to open: one microphone, or nobody is known. */
	const canOpen = $derived(shoot.master.length > 1 && sources.speech.length > 0);
</script>

<div class="flex flex-wrap items-center gap-x-2 gap-y-1 text-xs" data-testid="opening">
	<label class="flex items-center gap-1.5">
		<input
			type="checkbox"
			class="size-4 rounded border-line text-accent"
			checked={mix.opensBySpeech}
			disabled={!canOpen && !mix.opensBySpeech}
			onchange={(event) => setMix(shoot, { opensBySpeech: event.currentTarget.checked })}
		/>
		open by who speaks, others
	</label>
	<select
		class="rounded border border-line bg-surface py-0 pr-6 pl-1 text-xs"
		aria-label="By how much others are turned down"
		value={`${mix.closedDb}`}
		disabled={!mix.opensBySpeech}
		onchange={(event) => setMix(shoot, { closedDb: Number(event.currentTarget.value) })}
	>
		{#each CLOSED_DB as closedDb (closedDb)}<option value={`${closedDb}`}>−{-closedDb} dB</option>{/each}
		{#if !CLOSED_DB.includes(mix.closedDb)}<option value={`${mix.closedDb}`}>−{-mix.closedDb} dB</option>{/if}
	</select>
	<button
		class="text-accent underline disabled:text-quiet disabled:no-underline"
		disabled={!canEven}
		onclick={() =>
			changeMaster(shoot, (master) =>
				sources.report ? evenLevels(master, shoot.shoot.people, sources.report) : undefined
			)}>Even the voices</button
	>
	{#if mix.opensBySpeech && !opens}
		<span class="text-attention" role="status"
			>All stay open: {sources.speech.length === 0
				? 'it is not known yet who speaks.'
				: 'none of these channels is a person’s.'}</span
		>
	{/if}
</div>
