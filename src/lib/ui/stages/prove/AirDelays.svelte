<script lang="ts">
	import { Button } from 'flowbite-svelte';
	import { type AirSuggestion, suggestAirDelays } from '../../../core/proof/air-suggestion';
	import { airDelayFlicks, airDelayMetres } from '../../../core/shoot/air-delay';
	import { flicksPerFrame, flicksToSeconds } from '../../../core/time/flicks';
	import { countWords } from '../../controls/words';
	import { heardAfter } from '../../playback/attack-near';
	import { useShoot } from '../../state/shoot-state.svelte';

	/** How far each microphone stands from where the sound is made: what its picture and its sound part by. */
	const shoot = useShoot();

	const { airCelsius } = $derived(shoot.shoot);
	const devices = $derived(
		shoot.shoot.devices.filter((device) => shoot.placed.some((clip) => clip.deviceId === device.id))
	);
	/** When what was marked as seen is heard in the same clip, as its sound tells. */
	let heard = $state.raw<ReadonlyMap<string, number>>(new Map());
	const suggestions = $derived(
		new Map(suggestAirDelays(shoot.shoot, shoot.placed, heard).map((one) => [one.deviceId, one]))
	);
	$effect(() => {
		const seen = shoot.placed.flatMap((clip) =>
			clip.syncPoints.filter((point) => point.sense === 'seen').map((point) => ({ clip, point }))
		);
		void shoot.read(async () => {
			const found = await Promise.all(
				seen.map(async ({ clip, point }) => [point.id, await heardAfter(clip, point.mediaFlicks)] as const)
			);
			heard = new Map(found.filter((one): one is readonly [string, number] => one[1] !== undefined));
		});
	});
	const frameSeconds = $derived(flicksToSeconds(flicksPerFrame(shoot.shoot.rate)));

	function set(deviceId: string, metres: number): void {
		if (Number.isFinite(metres) && Math.abs(metres) <= 200)
			void shoot.edit({ kind: 'set-air-delay', deviceId, metres });
	}

	function milliseconds(metres: number): number {
		return 1000 * flicksToSeconds(airDelayFlicks(metres, airCelsius));
	}

	function why({ from, witnesses, delaySeconds }: AirSuggestion): string {
		const late = `${(1000 * delaySeconds).toFixed(1)} ms`;
		return from === 'what is seen'
			? `${countWords(witnesses, 'clap')} heard ${late} after ${witnesses === 1 ? 'it is' : 'they are'} seen`
			: `its timecode says ${late} more than its sound, in ${countWords(witnesses, 'clip')}`;
	}
</script>

<h2 class="text-base">Air delay</h2>
<p class="text-xs text-quiet">
	Sound needs 2.9 ms for a metre. Of a clip that was placed by its sound the picture is moved on; of one that was placed
	by timecode or by what is seen, the sound is moved back.
</p>
<label class="mt-1 flex items-center gap-2 text-sm"
	>Air at <input
		type="number"
		class="times w-16 rounded border border-line bg-surface px-1.5 py-0.5 text-sm"
		min="-40"
		max="60"
		value={airCelsius}
		onchange={(event) => shoot.edit({ kind: 'set-air-temperature', celsius: Number(event.currentTarget.value) })}
	/> °C</label
>
<table class="mt-2 w-full text-sm" data-testid="air-delays">
	<thead class="text-left text-xs text-quiet"
		><tr><th class="font-normal">Device</th><th class="font-normal">m</th><th class="font-normal">ms</th></tr></thead
	>
	<tbody>
		{#each devices as device (device.id)}
			{@const suggestion = suggestions.get(device.id)}
			<tr class="border-t border-line">
				<td class="py-0.5 pr-1"
					><span class="flex items-center gap-1.5"
						><span class="badge" style:--hue={shoot.hue(device.id)}>{device.badge}</span><span class="max-w-24 truncate"
							>{device.name}</span
						></span
					></td
				>
				<td
					><input
						type="number"
						step="0.1"
						class="times w-16 rounded border border-line bg-surface px-1 py-0.5 text-xs"
						aria-label="Air delay of {device.name} in metres"
						value={Number(device.airMetres.toFixed(2))}
						onchange={(event) => set(device.id, Number(event.currentTarget.value))}
					/></td
				>
				<td
					><input
						type="number"
						step="0.1"
						class="times w-16 rounded border border-line bg-surface px-1 py-0.5 text-xs"
						aria-label="Air delay of {device.name} in milliseconds"
						value={Number(milliseconds(device.airMetres).toFixed(1))}
						onchange={(event) => set(device.id, airDelayMetres(Number(event.currentTarget.value) / 1000, airCelsius))}
					/></td
				>
			</tr>
			{#if device.airMetres !== 0}
				<tr
					><td colspan="3" class="pb-1 text-xs text-quiet"
						>picture and sound part by {(milliseconds(device.airMetres) / 1000 / frameSeconds).toFixed(2)} frames</td
					></tr
				>
			{/if}
			{#if suggestion && Math.abs(suggestion.metres - device.airMetres) > 0.5}
				<tr
					><td colspan="3" class="pb-1 text-xs"
						>{why(suggestion)}: about {suggestion.metres.toFixed(1)} m.
						<Button
							size="xs"
							color="alternative"
							class="px-1.5 py-0.5"
							onclick={() => set(device.id, Number(suggestion.metres.toFixed(2)))}>Take it</Button
						></td
					></tr
				>
			{/if}
		{/each}
	</tbody>
</table>
<p class="mt-2 text-xs text-quiet">
	To have it suggested, mark a clap as seen in a camera’s picture: it is held against the sharp sound the camera heard
	just after.
</p>
