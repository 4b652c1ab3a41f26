<script lang="ts">
	import { page } from '$app/state';
	import CallBench from '$lib/ui/stages/call/CallBench.svelte';
	import GatherBench from '$lib/ui/stages/gather/GatherBench.svelte';
	import HandOffBench from '$lib/ui/stages/hand-off/HandOffBench.svelte';
	import LineUpBench from '$lib/ui/stages/line-up/LineUpBench.svelte';
	import MasterBench from '$lib/ui/stages/master/MasterBench.svelte';
	import ProveBench from '$lib/ui/stages/prove/ProveBench.svelte';
	import type { Stage } from '$lib/ui/state/stages';

	const BENCHES = {
		gather: GatherBench,
		'line-up': LineUpBench,
		prove: ProveBench,
		master: MasterBench,
		call: CallBench,
		'hand-off': HandOffBench
	} as const;
	const Bench = $derived(BENCHES[page.params['stage'] as Stage]);
</script>

<Bench />
