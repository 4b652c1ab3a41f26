<script lang="ts">
	import { page } from '$app/state';
</script>

<main class="m-auto max-w-lg p-10">
	<h1 class="text-2xl">{page.status === 404 ? 'There is nothing at this address' : 'This page could not be shown'}</h1>
	<p class="mt-3">{page.error?.message}</p>
	<p class="mt-3"><a class="text-accent underline" href="/">All shoots</a></p>
</main>
