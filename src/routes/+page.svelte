<script lang="ts">
	import ShootList from '$lib/ui/shoots/ShootList.svelte';
</script>

<ShootList />
