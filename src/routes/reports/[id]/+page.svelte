<script lang="ts">
	import { page } from '$app/state';
	import LineUpReport from '$lib/ui/stages/prove/LineUpReport.svelte';
</script>

<LineUpReport shootId={page.params['id'] ?? ''} lineUpId={page.url.searchParams.get('lineUp') ?? undefined} />
