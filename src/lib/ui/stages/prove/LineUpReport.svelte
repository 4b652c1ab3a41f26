<script lang="ts">
	import { Button } from 'flowbite-svelte';
	import { onMount } from 'svelte';
	import { methodWords, type ReportRow, type SignedReport } from '../../../core/proof/report';
	import type { Shoot } from '../../../core/shoot/shoot';
	import { flicksToSeconds } from '../../../core/time/flicks';
	import { clockRateWords, signedWords, timecodeWords } from '../../controls/words';
	import { localDay } from '../../controls/local-time';
	import { API } from '../../../contract/endpoints';
	import { assembleShoot } from '../../../core/shoot/assemble';
	import { storeRows } from '../../../core/shoot/rows';
	import { ask } from '../../state/request';

	/** The proof of a line-up on one page: read, printed, signed, taken away. */
	let { shootId, lineUpId }: { shootId: string; lineUpId: string | undefined } = $props();

	let report = $state.raw<SignedReport>();
	let shoot = $state.raw<Shoot>();
	let fault = $state<string>();
	let signedBy = $state('');
	let signedOn = $state(localDay(new Date()));
	let remark = $state('');

	const wanted = $derived(lineUpId ? { id: shootId, lineUp: lineUpId } : { id: shootId });
	const address = $derived(API.report.address(wanted));
	const wantedLineUp = $derived(lineUpId ?? shoot?.lineUps[0]?.id);

	async function read(): Promise<void> {
		try {
			const [read, { rows, ...steps }] = await Promise.all([
				ask(API.report, wanted, undefined),
				ask(API.shoot, { id: shootId }, undefined)
			]);
			report = read;
			({ shoot } = assembleShoot(storeRows(rows), steps));
			fault = undefined;
		} catch (error) {
			fault = error instanceof Error ? error.message : String(error);
		}
	}
	onMount(read);

	async function sign(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (!wantedLineUp) return;
		try {
			await ask(API.edit, { id: shootId }, { kind: 'sign', lineUpId: wantedLineUp, signedBy, signedOn, remark });
			remark = '';
			await read();
		} catch (error) {
			fault = error instanceof Error ? error.message : String(error);
		}
	}

	function milliseconds(seconds: number | undefined): string {
		return seconds === undefined ? '–' : signedWords(1000 * seconds);
	}

	function remainder({ remainderFlicks }: ReportRow): string {
		return milliseconds(remainderFlicks === undefined ? undefined : flicksToSeconds(remainderFlicks));
	}
</script>

<svelte:head><title>{report ? `Line-up report: ${report.shoot}` : 'Line-up report'}</title></svelte:head>

<main class="mx-auto max-w-5xl p-6 print:max-w-none print:p-0">
	{#if fault}<p class="mb-3 text-attention" role="alert">{fault}</p>{/if}
	{#if report && shoot}
		{@const rate = shoot.rate}
		<header class="flex flex-wrap items-baseline gap-3">
			<h1 class="text-2xl">{report.shoot}</h1>
			<span class="text-quiet">Line-up {report.lineUp} · reference {report.reference}</span>
			<nav class="ml-auto flex gap-2 print:hidden" aria-label="Download the report">
				<Button size="xs" color="alternative" href="/shoots/{shootId}/prove">Back to Prove</Button>
				<Button size="xs" color="alternative" onclick={() => window.print()}>Print</Button>
				<Button size="xs" color="alternative" href={address.replace('/report', '/report.csv')}>CSV</Button>
				<Button size="xs" color="alternative" href={address} target="_blank">JSON</Button>
			</nav>
		</header>
		<p class="mt-3 text-lg" class:text-good={report.verdict.kind === 'in sync'} data-testid="verdict">
			{report.verdictWords}
		</p>
		{#if report.verdict.kind !== 'in sync'}
			<ul class="mt-1 list-disc pl-5 text-sm text-attention">
				{#each report.verdict.faults as one (one)}<li>{one}</li>{/each}
			</ul>
		{/if}
		<table class="mt-4 w-full text-sm" data-testid="report">
			<thead class="text-left text-xs text-quiet">
				<tr>
					<th class="py-1 font-normal">Clip</th>
					<th class="font-normal">Method</th>
					<th class="font-normal">Starts at</th>
					<th class="font-normal">Clock</th>
					<th class="pl-4 text-right font-normal">Head, ms</th>
					<th class="pl-4 text-right font-normal">Middle, ms</th>
					<th class="pl-4 text-right font-normal">Tail, ms</th>
					<th class="pl-4 text-right font-normal">Off the frame, ms</th>
					<th class="pl-4 text-right font-normal">Confidence</th>
				</tr>
			</thead>
			<tbody>
				{#each report.rows as row (row.clipId)}
					<tr class="border-t border-line align-baseline">
						<td class="py-1 pr-2"
							><span class="font-semibold">{row.badge}</span>
							{row.clip}{#if row.isLocked}<span class="text-xs text-quiet">, locked</span>{/if}
							{#if row.airMetres !== 0}<span class="text-xs text-quiet">, {row.airMetres.toFixed(1)} m of air</span
								>{/if}
							{#each row.changes as change (change)}<br /><span class="text-xs text-quiet">{change}</span>{/each}</td
						>
						<td class="pr-4 whitespace-nowrap"
							>{methodWords(row.method)}{row.byHand && row.method === 'audio' ? ', moved by hand' : ''}</td
						>
						<td class="times pr-4">{timecodeWords(row.startFlicks, rate)}</td>
						<td class="times pr-2 whitespace-nowrap"
							>{clockRateWords(row)}{row.isDriftLeft ? ' (not corrected)' : ''}</td
						>
						<td class="times pl-4 text-right whitespace-nowrap">{milliseconds(row.headSeconds)}</td>
						<td class="times pl-4 text-right whitespace-nowrap">{milliseconds(row.middleSeconds)}</td>
						<td class="times pl-4 text-right whitespace-nowrap">{milliseconds(row.tailSeconds)}</td>
						<td class="times pl-4 text-right whitespace-nowrap">{remainder(row)}</td>
						<td class="times pl-4 text-right whitespace-nowrap"
							>{row.confidence === undefined ? 'by hand' : `${(100 * row.confidence).toFixed(1)}%`}</td
						>
					</tr>
				{/each}
			</tbody>
		</table>
		{#if report.strays.length > 0}
			<h2 class="mt-4 text-base">Not placed</h2>
			<ul class="text-sm">
				{#each report.strays as stray, index (index)}<li>
						<span class="font-semibold">{stray.badge}</span>
						{stray.clip}: {stray.reason}
					</li>{/each}
			</ul>
		{/if}
		<h2 class="mt-5 text-base">Signed</h2>
		<ul class="text-sm" data-testid="signatures">
			{#each report.signatures as signature, index (index)}
				<li>
					{signature.signedBy}, {signature.signedOn}{signature.remark ? `: ${signature.remark}` : ''}
					{#if signature.isOutOfDate}<strong class="text-attention">out of date: the line-up was changed since</strong
						>{:else}<span class="text-good">as it stands</span>{/if}
				</li>
			{:else}<li class="text-quiet">Nobody has signed yet.</li>{/each}
		</ul>
		<form class="mt-2 flex flex-wrap items-end gap-2 text-sm print:hidden" onsubmit={sign}>
			<label
				>Name <input
					class="block rounded border border-line bg-surface px-2 py-1 text-sm"
					bind:value={signedBy}
					required
					maxlength="100"
				/></label
			>
			<label
				>Date <input
					type="date"
					class="block rounded border border-line bg-surface px-2 py-1 text-sm"
					bind:value={signedOn}
					required
				/></label
			>
			<label class="min-w-48 flex-1"
				>Remark <input
					class="block w-full rounded border border-line bg-surface px-2 py-1 text-sm"
					bind:value={remark}
					maxlength="500"
				/></label
			>
			<Button type="submit" size="sm" disabled={signedBy.trim() === ''}>Sign</Button>
		</form>
	{:else if !fault}<p class="text-quiet">Reading the report…</p>{/if}
</main>
