<script lang="ts">
	import { AS_RECORDED } from '../../../core/shoot/decisions';
	import { asMaster, setAsMaster } from '../../../core/master/as-master';
	import { type ChannelKey, isSameChannel, type ReportedSet, type ReportedSource } from '../../../core/master/report';
	import PersonMark from '../../controls/PersonMark.svelte';
	import { progressWords } from '../../controls/words';
	import { useTransport } from '../../playback/transport.svelte';
	import { useScoreView } from '../../score/score-view.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { useSources } from '../../state/sources-state.svelte';
	import ListenButton from './ListenButton.svelte';
	import LossBars from './LossBars.svelte';
	import { allChannels, channelWords, changeMaster, chooseMaster, isMasterOf } from './master-choice';
	import { type FaultPlaces, faultsOf, turnedAgainst } from './source-words';

	/** Sets and single sources, best first, with what speaks for them and against. */
	const shoot = useShoot();
	const sources = useSources();
	const transport = useTransport();
	const view = useScoreView();

	interface Row extends ChannelKey {
		readonly source?: ReportedSource;
	}

	const channels = $derived(allChannels(shoot));
	/** Ranked ones first; what is not measured yet in the order of the devices. */
	const rows = $derived.by((): readonly Row[] => {
		const ranked = (sources.report?.sources ?? []).map((source) => ({ ...key(source), source }));
		const isOne = (a: ChannelKey) => (b: ChannelKey) => isSameChannel(a, b);
		return [
			...ranked.filter((one) => channels.some(isOne(one))),
			...channels.filter((one) => !ranked.some(isOne(one)))
		];
	});
	const sets = $derived((sources.report?.sets ?? []).filter((set) => set.channels.length > 1));
	const isOutOfDate = $derived(!sources.isCurrent && !sources.job);

	function key({ deviceId, channel }: ChannelKey): ChannelKey {
		return { deviceId, channel };
	}

	function setWords(set: ReportedSet): string {
		const names = set.channels.map((one) => channelWords(shoot, one)).join(' + ');
		return set.kind === 'close' ? names : `${shoot.device(set.channels[0]!.deviceId)?.name ?? ''}: ${names}`;
	}

	function take(set: ReportedSet): void {
		chooseMaster(shoot, setAsMaster(set));
	}

	function isInMaster(channel: ChannelKey): boolean {
		return shoot.master.some((one) => isSameChannel(one, channel));
	}

	function toggle(row: ChannelKey): void {
		const takesOut = isInMaster(row);
		changeMaster(shoot, (master) => {
			const others = master.filter((one) => !isSameChannel(one, row));
			return takesOut ? others : [...others, { ...AS_RECORDED, ...key(row) }];
		});
	}

	function nameOfPerson(place: number): string {
		const id = sources.report?.personIds[place];
		return shoot.shoot.people.find((one) => one.id === id)?.name ?? '';
	}

	/** To the next place of a fault, and round again. */
	function goToFault({ at }: FaultPlaces): void {
		const next = at.find((flicks) => flicks > transport.shownFlicks + 1) ?? at[0]!;
		transport.goTo(next);
		view.reveal(next);
	}
</script>

{#snippet badge(deviceId: string)}
	<span class="badge" style:--hue={shoot.hue(deviceId)}>{shoot.device(deviceId)?.badge}</span>
{/snippet}

<section class="panel flex min-h-0 flex-col overflow-auto" aria-label="Sources">
	{#if sources.job}
		<p class="border-b border-line px-3 py-1.5 text-sm text-quiet" role="status" data-testid="measuring">
			Listening to all sources: {progressWords(sources.job.share, sources.job.message, sources.job.secondsLeft)}
		</p>
	{:else if isOutOfDate && (sources.report || sources.hasFailed)}
		<p class="border-b border-line px-3 py-1.5 text-sm text-quiet" role="status">
			{sources.report ? 'Something has changed since this was measured.' : 'The sources could not be compared.'}
			<button class="text-accent underline" onclick={() => void sources.measure()}>Compare again</button>
		</p>
	{/if}
	<table class="w-full text-sm" data-testid="sources">
		<thead class="sticky top-0 z-10 bg-surface text-left text-xs text-quiet">
			<tr>
				<th class="py-1.5 pl-3 font-normal">Listen</th>
				<th class="px-2 font-normal">Source</th>
				<th class="px-2 text-right font-normal">Points</th>
				<th class="px-2 font-normal">Measures</th>
				<th class="px-2 text-right font-normal">Covers</th>
				<th class="px-2 pr-3 text-right font-normal">Master</th>
			</tr>
		</thead>
		{#if sets.length > 0}
			<tbody data-testid="sets">
				<tr><th scope="colgroup" colspan="6" class="group">Together</th></tr>
				{#each sets as set, index (JSON.stringify(set.channels))}
					{@const isMaster = isMasterOf(shoot.master, set.channels)}
					<tr class="border-t border-line">
						<td class="py-1 pl-3"
							><ListenButton audition={{ channels: setAsMaster(set) }} name="{setWords(set)}, together" /></td
						>
						<td class="px-2 py-1">
							<span class="flex flex-wrap items-center gap-1.5 font-semibold">
								{#each [...new Set(set.channels.map((one) => one.deviceId))] as deviceId (deviceId)}{@render badge(
										deviceId
									)}{/each}
								{setWords(set)}
								{#if index === 0}<span class="tag">proposed</span>{/if}
							</span>
							<span class="block text-xs text-quiet">{set.sentence}</span>
						</td>
						<td class="times px-2 text-right text-base">{Math.round(set.points)}</td>
						<td class="px-2"><LossBars losses={set.losses} /></td>
						<td class="times px-2 text-right">{Math.floor(set.coverage * 100)}%</td>
						<td class="px-2 pr-3 text-right">
							{#if isMaster}<span class="text-xs text-good">is the master</span>
							{:else}<button
									class="text-xs text-accent underline"
									aria-label="Make {setWords(set)} the master"
									onclick={() => take(set)}>make it the master</button
								>{/if}
						</td>
					</tr>
				{/each}
			</tbody>
		{/if}
		<tbody data-testid="single-sources">
			{#if sets.length > 0}<tr><th scope="colgroup" colspan="6" class="group">One by one</th></tr>{/if}
			{#each rows as row (`${row.deviceId} ${row.channel}`)}
				{@const { source } = row}
				{@const device = shoot.device(row.deviceId)}
				{@const name = channelWords(shoot, row)}
				<tr class="border-t border-line" class:text-quiet={source?.isDead} data-testid="source">
					<td class="py-1 pl-3"
						><ListenButton audition={{ channels: asMaster([row]) }} name="{device?.name}, {name}" /></td
					>
					<td class="px-2 py-1">
						<span class="flex flex-wrap items-center gap-1.5">
							{@render badge(row.deviceId)}
							<span class="font-semibold">{name}</span>
							<span class="text-quiet">{device?.name}</span>
							{#each sources.personsOf(row.deviceId, row.channel) as person (person.id)}<span
									class="inline-flex items-center gap-1 text-xs"
									><PersonMark mark={person.mark} size={10} />{person.name}</span
								>{/each}
							{#if source?.sameAs !== undefined}<span class="text-xs text-attention"
									>holds the same as {channelWords(shoot, { deviceId: row.deviceId, channel: source.sameAs })}</span
								>{/if}
							{#if source && turnedAgainst(source).length > 0}<span class="text-xs text-attention"
									>polarity turned against {turnedAgainst(source)
										.map((person) => nameOfPerson(person))
										.join(', ')}</span
								>{/if}
						</span>
						{#if source}<span class="block text-xs text-quiet">{source.sentence}</span>
							{#each faultsOf(source) as fault (fault.words)}<button
									class="mr-2 text-xs text-attention underline"
									title="Go to the next place of it"
									onclick={() => goToFault(fault)}>{fault.words}</button
								>{/each}{/if}
					</td>
					<td class="times px-2 text-right text-base">{source ? Math.round(source.points) : '–'}</td>
					<td class="px-2"
						>{#if source && !source.isDead}<LossBars losses={source.losses} />{/if}</td
					>
					<td class="times px-2 text-right" class:text-attention={source && source.coverage < 0.995}
						>{source ? `${Math.floor(source.coverage * 100)}%` : '–'}</td
					>
					<td class="px-2 pr-3 text-right"
						><input
							type="checkbox"
							class="size-4 rounded border-line text-accent"
							checked={isInMaster(row)}
							aria-label="{device?.name}, {name}: in the master"
							onchange={() => toggle(row)}
						/></td
					>
				</tr>
			{/each}
		</tbody>
	</table>
</section>

<style>
	.group {
		padding: 3px 12px;
		background: var(--ground);
		text-align: left;
		font-size: 12px;
		font-weight: 600;
	}
	.tag {
		border: 1px solid var(--good);
		border-radius: 4px;
		padding: 0 5px;
		color: var(--good);
		font-size: 11px;
		font-weight: 400;
	}
</style>
