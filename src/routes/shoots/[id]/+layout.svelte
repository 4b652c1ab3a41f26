<script lang="ts">
	import { page } from '$app/state';
	import ShootFrame from '$lib/ui/frame/ShootFrame.svelte';
	import type { Stage } from '$lib/ui/state/stages';

	let { children } = $props();
	const stage = $derived((page.params['stage'] ?? 'gather') as Stage);
</script>

{#key page.params['id']}
	<ShootFrame shootId={page.params['id'] ?? ''} {stage} {children} />
{/key}
