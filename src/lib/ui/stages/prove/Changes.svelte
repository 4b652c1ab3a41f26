<script lang="ts">
	import { API } from '../../../contract/endpoints';
	import type { EditEntry } from '../../../contract/views';
	import { ask } from '../../state/request';
	import { localTime } from '../../controls/local-time';
	import { useShoot } from '../../state/shoot-state.svelte';

	/** What was changed, the newest first; all of it can be undone, over restarts. */
	const shoot = useShoot();

	let changes = $state.raw<readonly EditEntry[]>([]);

	$effect(() => {
		if (shoot.shoot.revision)
			void shoot.read(async () => void (changes = await ask(API.edits, { id: shoot.shootId }, undefined)));
	});

	/** Back to just before a change, or on to just after it. */
	async function goTo(change: EditEntry): Promise<void> {
		const steps = change.undone
			? changes.filter((one) => one.undone && one.id <= change.id).length
			: changes.filter((one) => !one.undone && one.id >= change.id).length;
		for (let step = 0; step < steps; step++) await (change.undone ? shoot.redo() : shoot.undo());
	}
</script>

<h2 class="text-base">Changes</h2>
<p class="text-xs text-quiet">The newest first. “Undo to here” takes a change back with all that came after it.</p>
<ol class="mt-1 flex flex-col text-sm" data-testid="changes">
	{#each changes as change (change.id)}
		<li class="flex items-baseline gap-2 border-t border-line py-0.5" class:text-quiet={change.undone}>
			<span class="times text-xs text-quiet"><time datetime={change.at}>{localTime(change.at)}</time></span>
			<span class="min-w-0 flex-1" class:line-through={change.undone}>{change.label}</span>
			<button class="text-xs whitespace-nowrap text-accent underline" onclick={() => goTo(change)}
				>{change.undone ? 'Redo to here' : 'Undo to here'}</button
			>
		</li>
	{:else}<li class="text-quiet">Nothing was changed yet.</li>{/each}
</ol>
