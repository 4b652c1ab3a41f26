<script lang="ts">
	import Ear from '@lucide/svelte/icons/ear';
	import Headphones from '@lucide/svelte/icons/headphones';
	import { Button } from 'flowbite-svelte';
	import type { MasterChannel } from '../../../core/shoot/decisions';
	import type { Device } from '../../../core/shoot/device';
	import { placedEnd } from '../../../core/shoot/clip';
	import { channelCount, useListening } from '../../state/listening.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';

	const shoot = useShoot();
	const listening = useListening();

	const sources = $derived(
		shoot.shoot.devices.filter((device) =>
			shoot.placed.some((clip) => clip.deviceId === device.id && clip.parts[0]?.sound)
		)
	);
	const master = $derived(shoot.master);

	function channelsOf(device: Device): readonly number[] {
		return Array.from({ length: channelCount(shoot, device.id) }, (_, channel) => channel);
	}

	function inMaster(deviceId: string, channel: number): MasterChannel | undefined {
		return master.find((one) => one.deviceId === deviceId && one.channel === channel);
	}

	/** How much of the program the device records, 0 to 1. */
	function coverage(deviceId: string): number {
		const { program } = shoot;
		const [from, to] = program ? [program.inFlicks, program.outFlicks] : [shoot.range.inFlicks, shoot.range.outFlicks];
		const covered = shoot.placed
			.filter((clip) => clip.deviceId === deviceId)
			.reduce(
				(sum, clip) => sum + Math.max(0, Math.min(to, placedEnd(clip)) - Math.max(from, clip.placement.startFlicks)),
				0
			);
		return to > from ? Math.min(1, covered / (to - from)) : 0;
	}

	function store(channels: readonly MasterChannel[]): void {
		void shoot.editLineUp((lineUpId) => ({ kind: 'set-master', lineUpId, channels }));
	}

	function toggle(deviceId: string, channel: number): void {
		store(
			inMaster(deviceId, channel)
				? master.filter((one) => one.deviceId !== deviceId || one.channel !== channel)
				: [...master, { deviceId, channel, gainDb: 0, pan: 0 }]
		);
	}

	function change(deviceId: string, channel: number, part: Partial<MasterChannel>): void {
		store(master.map((one) => (one.deviceId === deviceId && one.channel === channel ? { ...one, ...part } : one)));
	}

	/** The device alone: two channels as left and right, others in the middle. */
	function takeAlone(device: Device): void {
		const channels = channelsOf(device);
		store(
			channels.map((channel) => ({
				deviceId: device.id,
				channel,
				gainDb: 0,
				pan: channels.length === 2 ? (channel === 0 ? -1 : 1) : 0
			}))
		);
	}

	function tries(deviceId: string, channel?: number): boolean {
		return listening.audition?.deviceId === deviceId && listening.audition.channel === channel;
	}

	function tryOut(deviceId: string, channel?: number): void {
		listening.audition = tries(deviceId, channel)
			? undefined
			: { deviceId, ...(channel === undefined ? {} : { channel }) };
	}
</script>

{#if sources.length === 0}
	<p class="m-auto max-w-md p-10 text-center text-quiet">
		Sources can be compared once they are <a class="text-accent underline" href="/shoots/{shoot.shootId}/line-up"
			>lined up</a
		>.
	</p>
{:else}
	<div class="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_280px] gap-3">
		<section class="panel min-h-0 overflow-auto" aria-label="Sources">
			<table class="w-full text-sm" data-testid="sources">
				<thead class="sticky top-0 z-10 bg-surface text-left text-xs text-quiet">
					<tr>
						<th class="px-3 py-2 font-normal">Source and its channels</th>
						<th class="px-2 font-normal">Covers</th>
						<th class="px-2 font-normal">Listen</th>
						<th class="px-2 font-normal">In the master</th>
						<th class="px-2 font-normal">Level</th>
						<th class="px-2 font-normal">Side</th>
					</tr>
				</thead>
				{#each sources as device (device.id)}
					{@const covered = coverage(device.id)}
					<tbody>
						<tr class="border-t border-line bg-ground">
							<th scope="rowgroup" class="px-3 py-1.5 text-left font-semibold">
								<span class="flex items-center gap-1.5"
									><span class="badge" style:--hue={shoot.hue(device.id)}>{device.badge}</span>{device.name}</span
								>
							</th>
							<td class="times px-2" class:text-attention={covered < 0.995}>{Math.floor(covered * 100)}%</td>
							<td class="px-2">
								<button
									class="try"
									class:on={tries(device.id)}
									aria-pressed={tries(device.id)}
									aria-label="Try {device.name}"
									onclick={() => tryOut(device.id)}><Headphones size={14} aria-hidden="true" /> try</button
								>
							</td>
							<td class="px-2" colspan="3"
								><button class="text-xs text-accent underline" onclick={() => takeAlone(device)}
									>make {device.badge} the master, alone</button
								></td
							>
						</tr>
						{#each channelsOf(device) as channel (channel)}
							{@const one = inMaster(device.id, channel)}
							{@const name = device.channelNames[channel] || `channel ${channel + 1}`}
							<tr class="border-t border-line">
								<td class="py-1 pr-2 pl-10"><span class="times mr-2 text-quiet">{channel + 1}</span>{name}</td>
								<td></td>
								<td class="px-2"
									><button
										class="try"
										class:on={tries(device.id, channel)}
										aria-pressed={tries(device.id, channel)}
										aria-label="Try {device.name}, {name}"
										onclick={() => tryOut(device.id, channel)}><Headphones size={14} aria-hidden="true" /> try</button
									></td
								>
								<td class="px-2"
									><input
										type="checkbox"
										class="size-4 rounded border-line text-accent"
										checked={!!one}
										aria-label="{device.name}, {name}: in the master"
										onchange={() => toggle(device.id, channel)}
									/></td
								>
								<td class="px-2 whitespace-nowrap">
									{#if one}
										<input
											type="range"
											min="-30"
											max="12"
											step="0.5"
											value={one.gainDb}
											aria-label="Level of {name} in dB"
											class="w-24 align-middle accent-accent"
											onchange={(event) => change(device.id, channel, { gainDb: Number(event.currentTarget.value) })}
										/>
										<span class="times ml-1 text-xs">{one.gainDb > 0 ? '+' : ''}{one.gainDb.toFixed(1)} dB</span>
									{/if}
								</td>
								<td class="px-2">
									{#if one}
										<select
											class="rounded border border-line bg-surface py-0 text-xs"
											aria-label="Side of {name}"
											value={`${one.pan}`}
											onchange={(event) => change(device.id, channel, { pan: Number(event.currentTarget.value) })}
										>
											<option value="-1">left</option><option value="0">both</option><option value="1">right</option>
											{#if ![-1, 0, 1].includes(one.pan)}<option value={`${one.pan}`}>{one.pan.toFixed(2)}</option>{/if}
										</select>
									{/if}
								</td>
							</tr>
						{/each}
					</tbody>
				{/each}
			</table>
		</section>
		<section class="panel flex min-h-0 flex-col gap-3 overflow-auto p-3" aria-label="Master audio">
			<h2 class="text-base">What the audience hears</h2>
			{#if master.length > 0}
				<ul class="flex flex-col gap-1 text-sm" data-testid="master">
					{#each master as one (`${one.deviceId} ${one.channel}`)}
						{@const device = shoot.device(one.deviceId)}
						<li class="flex items-center gap-1.5">
							<span class="badge" style:--hue={shoot.hue(one.deviceId)}>{device?.badge}</span>{device?.channelNames[
								one.channel
							] || `channel ${one.channel + 1}`}
						</li>
					{/each}
				</ul>
			{:else}
				<p class="text-sm text-attention">Nothing: the movie would be silent. Tick at least one channel.</p>
			{/if}
			<Button
				size="xs"
				color="alternative"
				disabled={!listening.audition}
				onclick={() => (listening.audition = undefined)}><Ear size={14} class="mr-1" /> Back to the master</Button
			>
			<p class="text-sm text-quiet">
				Trying a source goes on at the very same moment, while playing. It never changes the master; only the ticks do.
			</p>
		</section>
	</div>
{/if}

<style>
	.try {
		display: inline-flex;
		align-items: center;
		gap: 4px;
		padding: 1px 7px;
		border: 1px solid var(--line);
		border-radius: 5px;
		font-size: 12px;
		cursor: pointer;
	}
	.try:hover {
		border-color: var(--accent);
	}
	.try.on {
		background: var(--accent-fill);
		color: var(--on-accent);
		border-color: var(--accent-fill);
	}
</style>
