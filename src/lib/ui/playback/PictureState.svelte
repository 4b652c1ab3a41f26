<script lang="ts">
	/** What a picture shows that is not the picture of this very time, over its lower edge. */
	let { words, bottomPixels = 2, testId }: { words: string; bottomPixels?: number; testId: string } = $props();
</script>

<span
	class="absolute left-0.5 max-w-[calc(100%-4px)] truncate rounded-xs bg-surface px-1 text-xs text-attention"
	style:bottom="{bottomPixels}px"
	data-testid={testId}>{words}</span
>
