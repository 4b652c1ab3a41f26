<script lang="ts">
	import { MARKS } from '../../core/shoot/person';

	/** A person's mark: a hue that can be told apart with any colour vision, and a shape of its own. */
	let { mark, size = 12 }: { mark: number; size?: number } = $props();

	const SHAPES = [
		'M8 1a7 7 0 1 0 0 14a7 7 0 1 0 0-14z',
		'M1.5 1.5h13v13h-13z',
		'M8 1l7.5 13.5h-15z',
		'M8 0l8 8l-8 8l-8-8z',
		'M6 1h4v5h5v4h-5v5h-4v-5h-5v-4h5z',
		'M8 15l-7.5-13.5h15z',
		'M4 1h8l4 7l-4 7h-8l-4-7z',
		'M8 0l2 5.5h6l-4.8 3.6l1.8 6.2l-5-3.7l-5 3.7l1.8-6.2l-4.8-3.6h6z'
	];
</script>

<svg
	width={size}
	height={size}
	viewBox="0 0 16 16"
	class="shrink-0"
	style:fill="var(--hue-{mark % MARKS})"
	aria-hidden="true"
	data-testid="mark"><path d={SHAPES[mark % SHAPES.length]} /></svg
>
