<script lang="ts">
	import { rateInWords } from '../../../core/time/rational';
	import { useShoot } from '../../state/shoot-state.svelte';

	/** Frame rate and size of the line-up: the main camera's, unless they are set here. */
	const shoot = useShoot();
	const RATES = [
		'24000/1001',
		'24/1',
		'25/1',
		'30000/1001',
		'30/1',
		'48000/1001',
		'48/1',
		'50/1',
		'60000/1001',
		'60/1'
	];

	const main = $derived(shoot.device(shoot.shoot.mainCameraId ?? ''));
	const current = $derived(shoot.shoot.hasOwnRate ? `${shoot.shoot.rate.num}/${shoot.shoot.rate.den}` : '');

	function rateOf(text: string): { readonly num: number; readonly den: number } {
		const [num, den] = text.split('/').map(Number) as [number, number];
		return { num, den };
	}

	function set(text: string): void {
		const { width, height } = shoot.shoot;
		void shoot.edit(
			text === ''
				? { kind: 'set-rate', rate: null, width: null, height: null }
				: { kind: 'set-rate', rate: rateOf(text), width, height }
		);
	}
</script>

<div>
	<h3 class="text-sm">The line-up’s frames</h3>
	<p class="text-sm text-quiet">
		{rateInWords(shoot.shoot.rate)} a second, {shoot.shoot.width}×{shoot.shoot.height}{shoot.shoot.hasOwnRate
			? ', set by hand'
			: main
				? `, as ${main.name} records`
				: ''}
	</p>
	<select
		class="mt-1 w-full rounded border border-line bg-surface py-1 pr-7 pl-2 text-sm"
		aria-label="Frame rate of the line-up"
		value={current}
		onchange={(event) => set(event.currentTarget.value)}
	>
		<option value="">As the main camera</option>
		{#each RATES as rate (rate)}<option value={rate}>{rateInWords(rateOf(rate))} a second</option>{/each}
	</select>
</div>
