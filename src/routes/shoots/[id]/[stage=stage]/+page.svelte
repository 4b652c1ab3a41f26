<script lang="ts">
	import { page } from '$app/state';
	import CallBench from '$lib/ui/bench/CallBench.svelte';
	import GatherBench from '$lib/ui/bench/GatherBench.svelte';
	import HandOffBench from '$lib/ui/bench/HandOffBench.svelte';
	import LineUpBench from '$lib/ui/bench/LineUpBench.svelte';
	import MasterBench from '$lib/ui/bench/MasterBench.svelte';
	import ProveBench from '$lib/ui/bench/ProveBench.svelte';
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
