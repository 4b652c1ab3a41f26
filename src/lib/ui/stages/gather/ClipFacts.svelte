<script lang="ts">
	import { Button, Checkbox } from 'flowbite-svelte';
	import type { Clip } from '../../../core/shoot/clip';
	import { flicksToSeconds } from '../../../core/time/flicks';
	import EditableText from '../../controls/EditableText.svelte';
	import { clockWords } from '../../controls/words';
	import { useShoot } from '../../state/shoot-state.svelte';
	import ClipPreview from './ClipPreview.svelte';
	import { isJoined, pictureNotes, pictureWords, soundWords } from './clip-words';

	let { clip, onabout }: { clip: Clip; onabout: () => void } = $props();

	const shoot = useShoot();
	const device = $derived(shoot.device(clip.deviceId));
	const sound = $derived(clip.parts[0]?.sound);
	const FIELDS = [
		['scene', 'Scene'],
		['shot', 'Shot'],
		['take', 'Take'],
		['note', 'Note']
	] as const;

	function note(change: object): void {
		void shoot.edit({ kind: 'note-clips', notes: [{ clipId: clip.id, ...change }] });
	}
</script>

<h2 class="flex items-center gap-2 text-base">
	<span class="badge" style:--hue={shoot.hue(clip.deviceId)}>{device?.badge}</span>
	<EditableText
		value={clip.name}
		label="Name of the clip"
		onchange={(name) => shoot.edit({ kind: 'rename-clip', clipId: clip.id, name })}
	/>
</h2>
<ClipPreview {clip} />
<dl class="mt-2 grid grid-cols-[5.5rem_1fr] gap-y-1 text-sm">
	<dt class="text-quiet">Device</dt>
	<dd>{device?.name} <button class="text-xs text-accent underline" onclick={onabout}>Why?</button></dd>
	<dt class="text-quiet">Length</dt>
	<dd class="times">{flicksToSeconds(clip.durationFlicks).toFixed(3)} s</dd>
	<dt class="text-quiet">Picture</dt>
	<dd>
		{pictureWords(clip)}{clip.parts[0]?.picture ? `, ${clip.parts[0].picture.codec}` : ''}
		{#each pictureNotes(clip) as note (note)}<div class="text-xs text-quiet">{note}</div>{/each}
	</dd>
	<dt class="text-quiet">Sound</dt>
	<dd>
		{soundWords(clip)}{sound ? `, ${sound.codec}` : ''}{(sound?.streams ?? 1) > 1
			? `, in ${sound?.streams} streams`
			: ''}
	</dd>
	<dt class="text-quiet">Clock</dt>
	<dd class="times">
		{clip.clockSeconds === undefined ? 'not told' : clockWords(clip.clockSeconds)}{clip.timecode
			? ` (${clip.timecode}${clip.timecodeWords ? `, ${clip.timecodeWords}` : ''})`
			: ''}
	</dd>
	{#if clip.heardTimecode}
		<dt class="text-quiet">Heard</dt>
		<dd>
			timecode <span class="times">{clockWords(clip.heardTimecode.seconds)}</span> on channel {clip.heardTimecode
				.channel + 1}, {Math.round(100 * clip.heardTimecode.quality)}% of its frames
		</dd>
	{/if}
	{#if clip.date}<dt class="text-quiet">Recorded</dt>
		<dd class="times">{clip.date}</dd>{/if}
	{#if clip.maker}<dt class="text-quiet">Made by</dt>
		<dd>{clip.maker}</dd>{/if}
	{#each FIELDS as [field, title] (field)}
		<dt class="text-quiet">{title}</dt>
		<dd>
			<EditableText value={clip[field]} placeholder="–" label={title} onchange={(text) => note({ [field]: text })} />
		</dd>
	{/each}
	<dt class="text-quiet">Circled</dt>
	<dd>
		<Checkbox
			checked={clip.circled}
			aria-label="Circled take"
			onchange={(event) => note({ circled: event.currentTarget.checked })}
		/>
	</dd>
	<dt class="text-quiet">{clip.parts.length > 1 ? 'Files' : 'File'}</dt>
	<dd>
		{#each clip.parts as part (part.fileId)}
			<div class="times text-xs break-all">
				{part.relativePath} <span class="text-quiet">{part.container}</span>
				{#if part.isMissing}<span class="text-attention">missing</span>{/if}
			</div>
			{#each part.sound?.channelFiles?.slice(1) ?? [] as name (name)}<div class="times text-xs break-all">
					{name}
				</div>{/each}
		{/each}
	</dd>
</dl>
{#if isJoined(clip)}
	<p class="mt-2 text-sm text-quiet">
		{clip.parts.length > 1
			? 'Joined to the sample: the counter goes on, the format is the same, and each file ends where the next one begins.'
			: 'One take: the files have one name, one length and one clock, and hold a channel each.'}
	</p>
	<Button size="xs" color="alternative" class="mt-1" onclick={() => shoot.edit({ kind: 'take-apart', clipId: clip.id })}
		>Take apart</Button
	>
{/if}
{#if sound}
	<h3 class="mt-3 text-sm">Channels</h3>
	<ol class="mt-1 flex flex-col gap-0.5 text-sm">
		{#each Array.from({ length: sound.channels }) as _, channel (channel)}
			<li class="flex gap-2">
				<span class="times w-5 text-right text-quiet">{channel + 1}</span>
				<EditableText
					value={device?.channelNames[channel] ?? ''}
					placeholder="no name"
					label="Name of channel {channel + 1}"
					onchange={(name) => shoot.edit({ kind: 'name-channel', deviceId: clip.deviceId, channel, name })}
				/>
			</li>
		{/each}
	</ol>
{/if}
