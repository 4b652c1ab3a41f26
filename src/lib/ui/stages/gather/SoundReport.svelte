<script lang="ts">
	import { Button, Fileupload, Modal } from 'flowbite-svelte';
	import Papa from 'papaparse';
	import {
		clipOfLine,
		findHeadings,
		readReport,
		REPORT_FIELDS,
		type ReportField,
		type ReportMapping
	} from '../../../core/gather/sound-report';
	import { countWords } from '../../controls/words';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { openingMotion } from '../../controls/opening-motion';

	/** A sound report as a table: its columns are mapped, and what it would change is seen before. */
	let { onclose }: { onclose: () => void } = $props();

	const shoot = useShoot();
	const MAX_BYTES = 5_000_000;
	const TITLES: Readonly<Record<ReportField, string>> = {
		file: 'file',
		scene: 'scene',
		shot: 'shot',
		take: 'take',
		circled: 'circled',
		note: 'note',
		channel: 'channel name'
	};

	let open = $state(true);
	let rows = $state.raw<readonly (readonly string[])[]>([]);
	let headings = $state(0);
	let mapping = $state.raw<ReportMapping>([]);
	let fault = $state<string>();

	const lines = $derived(readReport(rows.slice(headings + 1), mapping));
	const clips = $derived(
		shoot.shoot.clips.map((clip) => ({
			clip,
			files: clip.parts.flatMap((part) => [part.relativePath, ...(part.sound?.channelFiles ?? [])])
		}))
	);
	const found = $derived(
		lines.flatMap((line) => {
			const one = clipOfLine(line, clips);
			return one ? [{ line, clip: one.clip }] : [];
		})
	);

	async function read(event: Event): Promise<void> {
		const file = (event.currentTarget as HTMLInputElement).files?.[0];
		if (!file) return;
		fault = file.size > MAX_BYTES ? 'That is too large for a sound report.' : undefined;
		if (fault) return;
		const parsed = Papa.parse<string[]>(await file.text(), { skipEmptyLines: 'greedy' });
		rows = parsed.data;
		const guess = findHeadings(rows);
		headings = guess.row;
		const columns = Math.max(0, ...rows.map((row) => row.length));
		mapping = Array.from({ length: columns }, (_, column) => guess.mapping[column]);
		if (rows.length === 0) fault = 'There are no lines in that file.';
	}

	function map(column: number, field: string): void {
		mapping = mapping.map((one, index) => (index === column ? ((field || undefined) as ReportField | undefined) : one));
	}

	async function take(): Promise<void> {
		const notes = found.map(({ clip, line }) => ({
			clipId: clip.id,
			...(line.scene === undefined ? {} : { scene: line.scene.slice(0, 100) }),
			...(line.shot === undefined ? {} : { shot: line.shot.slice(0, 100) }),
			...(line.take === undefined ? {} : { take: line.take.slice(0, 100) }),
			...(line.circled === undefined ? {} : { circled: line.circled }),
			...(line.note === undefined ? {} : { note: line.note.slice(0, 2000) })
		}));
		if (!(await shoot.edit({ kind: 'note-clips', notes }))) return;
		for (const [deviceId, names] of channelNames())
			for (const [channel, name] of names.entries())
				if (name) await shoot.edit({ kind: 'name-channel', deviceId, channel, name: name.slice(0, 100) });
		open = false;
	}

	/** The names that most lines of a device give. */
	function channelNames(): ReadonlyMap<string, readonly string[]> {
		const names = new Map<string, string[]>();
		for (const { clip, line } of found) {
			const own = names.get(clip.deviceId) ?? [];
			for (const [channel, name] of line.channels.entries())
				if (name && !own[channel] && channel < (clip.parts[0]?.sound?.channels ?? 0)) own[channel] = name;
			names.set(clip.deviceId, own);
		}
		return names;
	}
</script>

<Modal transitionParams={openingMotion()} bind:open title="Take in a sound report" size="lg" {onclose}>
	<div class="flex flex-col gap-3">
		<p class="text-sm text-quiet">
			A table as CSV, in any order of columns. Scene, take, circled takes, notes and channel names are taken over to the
			clips whose files it names.
		</p>
		<Fileupload accept=".csv,.tsv,.txt,text/csv" size="sm" aria-label="The report’s file" onchange={read} />
		{#if fault}<p class="text-sm text-attention" role="alert">{fault}</p>{/if}
		{#if rows.length > 0}
			<div class="max-h-64 overflow-auto rounded border border-line">
				<table class="text-xs" data-testid="report">
					<thead class="sticky top-0 bg-surface">
						<tr>
							{#each mapping as field, column (column)}
								<th class="p-1">
									<select
										class="rounded border border-line bg-ground py-0.5 pr-6 pl-1 text-xs font-normal"
										aria-label="Column {column + 1} is"
										value={field ?? ''}
										onchange={(event) => map(column, event.currentTarget.value)}
									>
										<option value="">–</option>
										{#each REPORT_FIELDS as one (one)}<option value={one}>{TITLES[one]}</option>{/each}
									</select>
								</th>
							{/each}
						</tr>
					</thead>
					<tbody>
						{#each rows.slice(0, 60) as row, index (index)}
							<tr
								class="border-t border-line"
								class:text-quiet={index <= headings}
								class:font-semibold={index === headings}
							>
								{#each mapping as _, column (column)}<td class="max-w-40 truncate px-2 py-0.5">{row[column] ?? ''}</td
									>{/each}
							</tr>
						{/each}
					</tbody>
				</table>
			</div>
			<p class="text-sm" role="status">
				{countWords(found.length, 'line')} of {lines.length} belong{found.length === 1 ? 's' : ''} to {countWords(
					new Set(found.map((one) => one.clip.id)).size,
					'clip'
				)} of this shoot.{mapping.includes('file') ? '' : ' Say which column names the file.'}
			</p>
			<div class="flex gap-2">
				<Button size="sm" disabled={found.length === 0} onclick={take}>Take it over</Button>
				<Button size="sm" color="alternative" onclick={() => (open = false)}>Leave it</Button>
			</div>
		{/if}
	</div>
</Modal>
