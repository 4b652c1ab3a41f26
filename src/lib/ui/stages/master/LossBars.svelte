<script lang="ts">
	import { LOSSES } from '../../../core/limits/master';
	import type { Loss, Points } from '../../../core/master/rank';
	import { LOSS_WORDS } from './source-words';

	/** One small bar a measure: full is faultless, what is missing was lost. */
	let { losses }: { losses: Points['losses'] } = $props();

	const bars = $derived(
		(Object.keys(LOSSES) as Loss[]).map((loss) => ({
			loss,
			kept: 1 - Math.min(1, (losses[loss] ?? 0) / LOSSES[loss].most),
			lost: Math.round(losses[loss] ?? 0)
		}))
	);
	const words = $derived(
		bars
			.filter(({ lost }) => lost > 0)
			.map(({ loss, lost }) => `${LOSS_WORDS[loss]}: ${lost} lost`)
			.join(', ')
	);
</script>

<span class="inline-flex h-5 items-end gap-0.5" role="img" aria-label={words || 'nothing lost'}>
	{#each bars as { loss, kept, lost } (loss)}
		<span class="bar" class:poor={kept < 0.5} title="{LOSS_WORDS[loss]}: {lost === 0 ? 'nothing' : lost} lost">
			<span style:height="{Math.max(6, 100 * kept)}%"></span>
		</span>
	{/each}
</span>

<style>
	.bar {
		display: flex;
		align-items: end;
		width: 6px;
		height: 100%;
		border-radius: 1px;
		background: color-mix(in srgb, var(--line) 60%, transparent);
	}
	.bar > span {
		width: 100%;
		border-radius: 1px;
		background: var(--good);
	}
	.bar.poor > span {
		background: var(--attention);
	}
</style>
