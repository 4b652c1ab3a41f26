<script lang="ts">
	import ArrowDown from '@lucide/svelte/icons/arrow-down';
	import ArrowUp from '@lucide/svelte/icons/arrow-up';
	import Circle from '@lucide/svelte/icons/circle';
	import Star from '@lucide/svelte/icons/star';
	import { createVirtualizer } from '@tanstack/svelte-virtual';
	import { Checkbox } from 'flowbite-svelte';
	import { get } from 'svelte/store';
	import type { SvelteSet } from 'svelte/reactivity';
	import EditableText from '../../controls/EditableText.svelte';
	import { countWords, lengthWords, sizeWords } from '../../controls/words';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { type ClipFilter, type ClipOrder, clipRows, newFileRows, NO_FILTER, sizeOf } from './clip-rows';
	import { clockOf, partsWords, pictureWords, sceneWords, shortSoundWords } from './clip-words';

	let {
		chosen,
		deviceId = $bindable(),
		reading
	}: { chosen: SvelteSet<string>; deviceId: string | undefined; reading: boolean } = $props();

	const shoot = useShoot();
	const ROW_PIXELS = 29;
	/** What rows carry while they are dragged. */
	const DRAGGED = 'application/x-open-choir-clips';

	let filter = $state.raw<ClipFilter>(NO_FILTER);
	let order = $state<ClipOrder>('name');
	let descending = $state(false);
	let scroller = $state<HTMLElement>();
	let lastChosen: string | undefined;
	let over = $state<string>();

	const rows = $derived([
		...newFileRows(shoot.shoot.newFiles, filter),
		...clipRows(shoot.shoot.devices, shoot.shoot.clips, filter, order, descending)
	]);
	const scenes = $derived([...new Set(shoot.shoot.clips.map((clip) => clip.scene).filter(Boolean))].sort());
	const people = $derived([
		...new Set(shoot.shoot.devices.flatMap((device) => device.channelNames).filter((name) => name !== ''))
	]);
	const columns: readonly { readonly title: string; readonly order?: ClipOrder; readonly class?: string }[] = [
		{ title: 'Device or clip', order: 'name', class: 'pl-2' },
		{ title: 'Length', order: 'length' },
		{ title: 'Scene / take', order: 'scene' },
		{ title: 'Picture' },
		{ title: 'Sound' },
		{ title: 'Timecode', order: 'clock' },
		{ title: 'Size', order: 'size', class: 'text-right' }
	];

	const virtualizer = createVirtualizer<HTMLElement, HTMLTableRowElement>({
		count: 0,
		getScrollElement: () => scroller ?? null,
		estimateSize: () => ROW_PIXELS,
		overscan: 12
	});
	$effect(() => {
		const count = rows.length;
		const element = scroller ?? null;
		// Read without listening: setting its options tells all who do.
		get(virtualizer).setOptions({ count, getScrollElement: () => element });
	});
	/** What is on screen is prepared first. */
	$effect(() => {
		const files = visible.flatMap(({ index }) => {
			const row = rows[index];
			return row?.kind === 'clip' ? row.clip.parts.map((part) => part.fileId) : [];
		});
		shoot.onScreen = files;
		return () => (shoot.onScreen = []);
	});
	const visible = $derived($virtualizer.getVirtualItems().filter((item) => item.index < rows.length));
	const before = $derived(visible[0]?.start ?? 0);
	const after = $derived(Math.max(0, rows.length * ROW_PIXELS - (visible.at(-1)?.end ?? 0)));

	function sortBy(wanted: ClipOrder): void {
		descending = order === wanted ? !descending : false;
		order = wanted;
	}

	function choose(clipId: string, event: MouseEvent): void {
		const clipIds = rows.flatMap((row) => (row.kind === 'clip' ? [row.clip.id] : []));
		const [a, b] = [clipIds.indexOf(lastChosen ?? ''), clipIds.indexOf(clipId)];
		const wanted = !chosen.has(clipId);
		// With Shift, all from the last one on.
		const range = event.shiftKey && a >= 0 ? clipIds.slice(Math.min(a, b), Math.max(a, b) + 1) : [clipId];
		for (const id of range) {
			if (wanted) chosen.add(id);
			else chosen.delete(id);
		}
		lastChosen = clipId;
	}

	function chooseDevice(clipIds: readonly string[]): void {
		const all = clipIds.every((id) => chosen.has(id));
		for (const id of clipIds) {
			if (all) chosen.delete(id);
			else chosen.add(id);
		}
	}

	function select(clipId: string): void {
		shoot.selectedClipId = clipId;
		deviceId = undefined;
	}

	function drag(event: DragEvent, clipId: string): void {
		const dragged = chosen.has(clipId) ? [...chosen] : [clipId];
		event.dataTransfer?.setData(DRAGGED, JSON.stringify(dragged));
		if (event.dataTransfer) event.dataTransfer.effectAllowed = 'move';
	}

	function allowDrop(event: DragEvent, device: string): void {
		if (!event.dataTransfer?.types.includes(DRAGGED)) return;
		event.preventDefault();
		over = device;
	}

	async function drop(event: DragEvent, device: string): Promise<void> {
		event.preventDefault();
		over = undefined;
		const text = event.dataTransfer?.getData(DRAGGED);
		if (!text) return;
		if (await shoot.edit({ kind: 'move-clips', clipIds: JSON.parse(text) as string[], deviceId: device }))
			chosen.clear();
	}
</script>

<div class="flex h-full min-h-0 flex-col">
	<div class="flex shrink-0 flex-wrap items-center gap-2 border-b border-line px-2 py-1 text-xs">
		<input
			type="search"
			class="w-36 rounded border border-line bg-ground px-2 py-0.5 text-xs"
			placeholder="Find a clip"
			aria-label="Find a clip by name, file or note"
			value={filter.text}
			oninput={(event) => (filter = { ...filter, text: event.currentTarget.value })}
		/>
		{@render pick(
			'Device',
			filter.deviceId,
			shoot.shoot.devices.map((one) => [one.id, `${one.badge} ${one.name}`]),
			(value) => (filter = { ...filter, deviceId: value })
		)}
		{#if people.length > 0}{@render pick(
				'Person',
				filter.person,
				people.map((one) => [one, one]),
				(value) => (filter = { ...filter, person: value })
			)}{/if}
		{#if scenes.length > 0}{@render pick(
				'Scene',
				filter.scene,
				scenes.map((one) => [one, `Scene ${one}`]),
				(value) => (filter = { ...filter, scene: value })
			)}{/if}
		{#if shoot.shoot.clips.some((clip) => clip.circled)}
			<Checkbox
				class="text-xs"
				checked={filter.circled}
				onchange={(event) => (filter = { ...filter, circled: event.currentTarget.checked })}>circled</Checkbox
			>
		{/if}
		{#if shoot.strays.length > 0}
			<Checkbox
				class="text-xs"
				checked={filter.strays}
				onchange={(event) => (filter = { ...filter, strays: event.currentTarget.checked })}>strays</Checkbox
			>
		{/if}
		{#if filter !== NO_FILTER}
			<button class="text-accent underline" onclick={() => (filter = NO_FILTER)}>Show all</button>
		{/if}
	</div>
	<div class="min-h-0 flex-1 overflow-auto" bind:this={scroller}>
		<table class="w-full table-fixed text-sm" data-testid="clips" aria-rowcount={rows.length + 1}>
			<colgroup>
				<col /><col style:width="4.6rem" /><col style:width="5.6rem" /><col style:width="9rem" /><col
					style:width="8.6rem"
				/><col style:width="6.6rem" /><col style:width="4.6rem" />
			</colgroup>
			<thead class="sticky top-0 z-10 bg-surface text-left text-xs text-quiet">
				<tr aria-rowindex={1}>
					{#each columns as column (column.title)}
						<th
							class="px-2 py-1 font-normal {column.class ?? ''}"
							aria-sort={column.order === order ? (descending ? 'descending' : 'ascending') : undefined}
						>
							{#if column.order}
								{@const key = column.order}
								<button class="inline-flex items-center gap-0.5 hover:text-accent" onclick={() => sortBy(key)}>
									{column.title}
									{#if order === key}{#if descending}<ArrowDown size={11} aria-hidden="true" />{:else}<ArrowUp
												size={11}
												aria-hidden="true"
											/>{/if}{/if}
								</button>
							{:else}{column.title}{/if}
						</th>
					{/each}
				</tr>
			</thead>
			<tbody>
				{#if before > 0}<tr aria-hidden="true"><td colspan="7" style:height="{before}px" class="p-0"></td></tr>{/if}
				{#each visible as item (item.key)}
					{@const row = rows[item.index]!}
					{#if row.kind === 'device'}
						{@const { device } = row}
						<tr
							class="h-[29px] border-t border-line bg-ground"
							class:over={over === device.id}
							data-testid="device-{device.badge}"
							aria-rowindex={item.index + 2}
							ondragover={(event) => allowDrop(event, device.id)}
							ondragleave={() => (over = undefined)}
							ondrop={(event) => drop(event, device.id)}
						>
							<th scope="rowgroup" class="overflow-hidden px-2 text-left font-semibold" colspan={3}>
								<span class="flex items-center gap-1.5">
									<input
										type="checkbox"
										class="size-3.5 rounded border-line text-accent"
										aria-label="Choose all clips of {device.name}"
										checked={row.clips.length > 0 && row.clips.every((one) => chosen.has(one.id))}
										onchange={() => chooseDevice(row.clips.map((one) => one.id))}
									/>
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
									{/if}
								</span>
							</th>
							<td class="truncate px-2 text-xs text-quiet" colspan="3"
								>{device.kind} · {row.shown === row.clips.length
									? countWords(row.clips.length, 'clip')
									: `${row.shown} of ${countWords(row.clips.length, 'clip')}`} · {lengthWords(
									row.clips.reduce((sum, one) => sum + one.durationFlicks, 0)
								)}</td
							>
							<td class="px-2 text-right">
								<button
									class="text-xs text-accent underline"
									aria-label="About {device.name}"
									aria-pressed={deviceId === device.id}
									onclick={() => (deviceId = device.id)}>About</button
								>
							</td>
						</tr>
					{:else if row.kind === 'new files'}
						<tr class="h-[29px] border-t border-line bg-ground" aria-rowindex={item.index + 2} data-testid="new-files">
							<th scope="rowgroup" class="px-2 text-left font-semibold" colspan="7"
								>{countWords(row.count, 'new file')}
								<span class="text-xs font-normal text-quiet"
									>{row.unread > 0 ? `${row.unread} still to be read` : 'read; being sorted into devices'}</span
								></th
							>
						</tr>
					{:else if row.kind === 'new file'}
						{@const { file } = row}
						{@const told = { ...file, parts: file.part ? [file.part] : [] }}
						<tr
							class="h-[29px] border-t border-line"
							class:text-quiet={!file.part}
							aria-rowindex={item.index + 2}
							data-testid="new-file"
						>
							<td class="truncate pr-2 pl-4" title={file.relativePath}>{file.relativePath}</td>
							{#if file.part}
								<td class="times px-2">{lengthWords(file.part.durationFlicks)}</td>
								<td></td>
								<td class="truncate px-2" class:text-quiet={!file.part.picture}>{pictureWords(told)}</td>
								<td class="truncate px-2">{shortSoundWords(told)}</td>
								<td class="times truncate px-2">{clockOf(told)}</td>
							{:else}<td class="px-2" colspan="5">to be read</td>{/if}
							<td class="times px-2 text-right whitespace-nowrap">{sizeWords(file.sizeBytes)}</td>
						</tr>
					{:else}
						{@const { clip } = row}
						<tr
							class="row h-[29px] border-t border-line"
							class:here={clip.id === shoot.selectedClipId && !deviceId}
							aria-selected={clip.id === shoot.selectedClipId}
							aria-rowindex={item.index + 2}
							draggable="true"
							ondragstart={(event) => drag(event, clip.id)}
						>
							<td class="overflow-hidden pr-2 pl-4">
								<span class="flex items-center gap-1.5">
									<input
										type="checkbox"
										class="size-3.5 rounded border-line text-accent"
										aria-label="Choose {clip.name}"
										checked={chosen.has(clip.id)}
										onclick={(event) => choose(clip.id, event)}
									/>
									<button class="truncate text-left" title={clip.name} onclick={() => select(clip.id)}
										>{clip.name}</button
									>
									{#if clip.circled}<Circle size={11} class="shrink-0 text-accent" aria-label="circled" />{/if}
									{#if partsWords(clip)}<span class="truncate text-xs text-quiet">· {partsWords(clip)}</span>{/if}
								</span>
							</td>
							<td class="times px-2">{lengthWords(clip.durationFlicks)}</td>
							<td class="truncate px-2 text-quiet">{sceneWords(clip)}</td>
							<td class="truncate px-2" class:text-quiet={!clip.parts[0]?.picture}>{pictureWords(clip)}</td>
							<td class="truncate px-2" class:text-attention={!clip.parts[0]?.sound}>{shortSoundWords(clip)}</td>
							<td class="times truncate px-2">{clockOf(clip)}</td>
							<td
								class="times px-2 text-right whitespace-nowrap"
								class:text-attention={clip.parts.some((part) => part.isMissing)}
								>{clip.parts.some((part) => part.isMissing) ? 'missing' : sizeWords(sizeOf(clip))}</td
							>
						</tr>
					{/if}
				{:else}
					{#if rows.length === 0}
						<tr
							><td class="p-6 text-quiet" colspan="7">
								{#if filter !== NO_FILTER}No clip is like that.{:else if reading}The files are being read.{:else}No
									recordings were found in this folder.{/if}
							</td></tr
						>
					{/if}
				{/each}
				{#if after > 0}<tr aria-hidden="true"><td colspan="7" style:height="{after}px" class="p-0"></td></tr>{/if}
			</tbody>
		</table>
	</div>
</div>

{#snippet pick(
	label: string,
	value: string,
	options: readonly (readonly [string, string])[],
	onpick: (value: string) => void
)}
	<select
		class="max-w-32 rounded border border-line bg-ground py-0.5 pr-6 pl-2 text-xs"
		aria-label="Show only: {label}"
		{value}
		onchange={(event) => onpick(event.currentTarget.value)}
	>
		<option value="">{label}: all</option>
		{#each options as [key, words] (key)}<option value={key}>{words}</option>{/each}
	</select>
{/snippet}

<style>
	.row:hover,
	.here {
		background: color-mix(in srgb, var(--accent-fill) 12%, transparent);
	}

	.over {
		outline: 2px solid var(--accent);
		outline-offset: -2px;
	}
</style>
