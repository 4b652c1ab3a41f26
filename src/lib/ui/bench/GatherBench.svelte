<script lang="ts">
	import { RefreshCw, Star } from '@lucide/svelte';
	import { Button, Progressbar } from 'flowbite-svelte';
	import type { Clip, Device } from '../../core/shoot/shoot';
	import { flicksToSeconds } from '../../core/time/flicks';
	import { rateInWords } from '../../core/time/rational';
	import EditableText from '../controls/EditableText.svelte';
	import { clockWords, countWords, lengthWords, sizeWords, timeLeftWords } from '../controls/words';
	import { useShoot } from '../state/shoot-state.svelte';

	const shoot = useShoot();

	const reading = $derived(shoot.runningJobs.find((job) => job.kind === 'gather'));
	const preparing = $derived(shoot.runningJobs.find((job) => job.kind === 'prepare'));
	const clip = $derived(shoot.selectedClip);
	const files = $derived(shoot.shoot.clips.reduce((sum, one) => sum + one.parts.length, 0));

	function clipsOf(device: Device): readonly Clip[] {
		return shoot.shoot.clips.filter((one) => one.deviceId === device.id);
	}

	function lengthOf(clips: readonly Clip[]): number {
		return clips.reduce((sum, one) => sum + one.durationFlicks, 0);
	}

	function pictureWords({ parts }: Clip): string {
		const picture = parts[0]?.picture;
		return picture ? `${picture.width}×${picture.height} · ${rateInWords(picture.rate)}` : 'no picture';
	}

	function soundWords({ parts }: Clip): string {
		const sound = parts[0]?.sound;
		return sound ? `${countWords(sound.channels, 'channel')} · ${sound.sampleRate / 1000} kHz` : 'no sound';
	}

	function clockOf(one: Clip): string {
		return one.timecode ?? (one.clockSeconds === undefined ? '–' : clockWords(one.clockSeconds));
	}

	function sizeOf(one: Clip): number {
		return one.parts.reduce((sum, part) => sum + part.sizeBytes, 0);
	}
</script>

<div class="grid h-full min-h-0 grid-cols-[230px_minmax(0,1fr)_290px] gap-3">
	<section class="panel flex min-h-0 flex-col gap-3 overflow-auto p-3" aria-label="Sources">
		<h2 class="text-base">Sources</h2>
		<div>
			<p class="times text-xs break-all">{shoot.shoot.folder}</p>
			<p class="mt-1 text-sm text-quiet">
				{countWords(files, 'file')} in {countWords(shoot.shoot.devices.length, 'device')}. They stay where they are and
				are never changed.
			</p>
		</div>
		{#if reading}
			<div data-testid="gather-progress">
				<p class="mb-1 text-sm">Reading the files: {reading.message || 'looking through the folder'}</p>
				<Progressbar progress={Math.round(reading.share * 100)} size="h-1.5" />
				<p class="mt-1 text-xs text-quiet">
					{timeLeftWords(reading.secondsLeft)}
					<button class="text-accent underline" onclick={() => shoot.changeJob(reading.id, 'stop')}>Stop</button>
				</p>
			</div>
		{:else}
			<Button size="xs" color="alternative" onclick={() => shoot.startJob({ kind: 'gather' })}
				><RefreshCw size={14} class="mr-1" /> Look again for new files</Button
			>
		{/if}
		{#if preparing}
			<div>
				<p class="mb-1 text-sm">Preparing waveforms and small pictures</p>
				<Progressbar progress={Math.round(preparing.share * 100)} size="h-1.5" />
				<p class="mt-1 text-xs text-quiet">{preparing.message} · {timeLeftWords(preparing.secondsLeft)}</p>
			</div>
		{/if}
		{#if shoot.shoot.badFiles.length > 0}
			<div>
				<h3 class="text-sm text-attention">{countWords(shoot.shoot.badFiles.length, 'file')} cannot be used</h3>
				<ul class="mt-1 flex flex-col gap-1 text-xs" data-testid="bad-files">
					{#each shoot.shoot.badFiles as bad (bad.fileId)}
						<li>
							<span class="times break-all">{bad.relativePath}</span><br /><span class="text-quiet">{bad.reason}</span>
						</li>
					{/each}
				</ul>
			</div>
		{/if}
	</section>

	<section class="panel min-h-0 overflow-auto" aria-label="Devices and clips">
		<table class="w-full text-sm" data-testid="clips">
			<thead class="sticky top-0 z-10 bg-surface text-left text-xs text-quiet">
				<tr>
					<th class="px-3 py-2 font-normal">Device or clip</th>
					<th class="px-2 font-normal">Length</th>
					<th class="px-2 font-normal">Picture</th>
					<th class="px-2 font-normal">Sound</th>
					<th class="px-2 font-normal">Timecode</th>
					<th class="px-2 text-right font-normal">Size</th>
				</tr>
			</thead>
			{#each shoot.shoot.devices as device (device.id)}
				{@const clips = clipsOf(device)}
				<tbody>
					<tr class="border-t border-line bg-ground" data-testid="device-{device.badge}">
						<th scope="rowgroup" class="px-3 py-1.5 text-left font-semibold">
							<span class="flex items-center gap-1.5">
								<span class="badge" style:--hue={shoot.hue(device.id)}>
									<EditableText
										value={device.badge}
										label="Badge of {device.name}"
										maxlength={3}
										class="hover:bg-transparent {device.badge.length > 1 ? '' : 'w-[1.2em] text-center'}"
										onchange={(badge) => shoot.edit({ kind: 'set-badge', deviceId: device.id, badge })}
									/>
								</span>
								<EditableText
									value={device.name}
									label="Name of device {device.badge}"
									onchange={(name) => shoot.edit({ kind: 'rename-device', deviceId: device.id, name })}
								/>
								{#if device.id === shoot.shoot.mainCameraId}
									<span class="inline-flex items-center gap-0.5 text-xs font-normal whitespace-nowrap text-accent"
										><Star size={12} fill="currentColor" aria-hidden="true" /> main camera</span
									>
								{:else if device.kind === 'camera'}
									<button
										class="text-xs font-normal whitespace-nowrap text-quiet underline hover:text-accent"
										onclick={() => shoot.edit({ kind: 'set-main-camera', deviceId: device.id })}>make main</button
									>
								{/if}
							</span>
						</th>
						<td class="times px-2">{lengthWords(lengthOf(clips))}</td>
						<td class="px-2 text-quiet" colspan="3"
							>{device.kind} · {countWords(clips.length, 'clip')} · folder {device.folder}</td
						>
						<td></td>
					</tr>
					{#each clips as one (one.id)}
						<tr
							class="row border-t border-line"
							class:chosen={one.id === shoot.selectedClipId}
							aria-selected={one.id === shoot.selectedClipId}
						>
							<td class="py-1 pr-2 pl-9">
								<button class="max-w-56 truncate text-left" onclick={() => (shoot.selectedClipId = one.id)}
									>{one.name}</button
								>
								{#if one.parts.length > 1}<span class="text-xs text-quiet">
										· {one.parts.length} files joined</span
									>{/if}
							</td>
							<td class="times px-2">{lengthWords(one.durationFlicks)}</td>
							<td class="px-2 whitespace-nowrap" class:text-quiet={!one.parts[0]?.picture}>{pictureWords(one)}</td>
							<td class="px-2 whitespace-nowrap" class:text-attention={!one.parts[0]?.sound}>{soundWords(one)}</td>
							<td class="times px-2">{clockOf(one)}</td>
							<td class="times px-2 text-right whitespace-nowrap">{sizeWords(sizeOf(one))}</td>
						</tr>
					{/each}
				</tbody>
			{:else}
				<tbody
					><tr
						><td class="p-6 text-quiet" colspan="6"
							>{reading ? 'The files are being read.' : 'No recordings were found in this folder.'}</td
						></tr
					></tbody
				>
			{/each}
		</table>
	</section>

	<section class="panel min-h-0 overflow-auto p-3" aria-label="Selected clip">
		{#if clip}
			{@const device = shoot.device(clip.deviceId)}
			<h2 class="flex items-center gap-2 text-base">
				<span class="badge" style:--hue={shoot.hue(clip.deviceId)}>{device?.badge}</span>
				<EditableText
					value={clip.name}
					label="Name of the clip"
					onchange={(name) => shoot.edit({ kind: 'rename-clip', clipId: clip.id, name })}
				/>
			</h2>
			<dl class="mt-2 grid grid-cols-[5.5rem_1fr] gap-y-1 text-sm">
				<dt class="text-quiet">Length</dt>
				<dd class="times">{flicksToSeconds(clip.durationFlicks).toFixed(3)} s</dd>
				<dt class="text-quiet">Picture</dt>
				<dd>{pictureWords(clip)}{clip.parts[0]?.picture ? `, ${clip.parts[0].picture.codec}` : ''}</dd>
				<dt class="text-quiet">Sound</dt>
				<dd>{soundWords(clip)}{clip.parts[0]?.sound ? `, ${clip.parts[0].sound.codec}` : ''}</dd>
				<dt class="text-quiet">Clock</dt>
				<dd class="times">
					{clip.clockSeconds === undefined ? 'not told' : clockWords(clip.clockSeconds)}{clip.timecode
						? ` (${clip.timecode})`
						: ''}
				</dd>
				<dt class="text-quiet">{clip.parts.length > 1 ? 'Files' : 'File'}</dt>
				<dd>
					{#each clip.parts as part (part.fileId)}
						<div class="times text-xs break-all">
							{part.relativePath} <span class="text-quiet">{part.container}</span>
						</div>
					{/each}
				</dd>
			</dl>
			{#if clip.parts.length > 1}<p class="mt-2 text-sm text-quiet">
					Joined to the sample: the counter goes on, the format is the same, and each file ends where the next one
					begins.
				</p>{/if}
			{#if clip.parts[0]?.sound}
				<h3 class="mt-3 text-sm">Channels</h3>
				<ol class="mt-1 flex flex-col gap-0.5 text-sm">
					{#each Array.from({ length: clip.parts[0].sound.channels }) as _, channel (channel)}
						<li class="flex gap-2">
							<span class="times w-4 text-right text-quiet">{channel + 1}</span>{device?.channelNames[channel] ||
								'no name'}
						</li>
					{/each}
				</ol>
			{/if}
		{:else}
			<p class="text-sm text-quiet">Choose a clip to see what its file tells.</p>
		{/if}
	</section>
</div>

<style>
	.row:hover,
	.chosen {
		background: color-mix(in srgb, var(--accent-fill) 12%, transparent);
	}
</style>
