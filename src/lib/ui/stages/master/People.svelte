<script lang="ts">
	import ChevronLeft from '@lucide/svelte/icons/chevron-left';
	import ChevronRight from '@lucide/svelte/icons/chevron-right';
	import ChevronUp from '@lucide/svelte/icons/chevron-up';
	import Plus from '@lucide/svelte/icons/plus';
	import X from '@lucide/svelte/icons/x';
	import { spokenFlicks } from '../../../core/people/effective-speech';
	import type { Person, PersonChannel } from '../../../core/shoot/person';
	import EditableText from '../../controls/EditableText.svelte';
	import PersonMark from '../../controls/PersonMark.svelte';
	import { countWords, lengthWords } from '../../controls/words';
	import { toPassage } from '../../frame/master-keys';
	import { useTransport } from '../../playback/transport.svelte';
	import { useScoreView } from '../../score/score-view.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { useSources } from '../../state/sources-state.svelte';
	import ChosenSpeech from './ChosenSpeech.svelte';
	import { allChannels, channelWords } from './master-choice';

	/** Who speaks: names, microphones closest first, how long each spoke, and a way through his passages. */
	const shoot = useShoot();
	const sources = useSources();
	const transport = useTransport();
	const view = useScoreView();

	/** A channel that is being dragged to another place of its person's. */
	let carried = $state.raw<{ readonly personId: string; readonly place: number }>();

	const range = $derived(shoot.program ?? shoot.range);
	const channels = $derived(allChannels(shoot));

	function setChannels(person: Person, channels: readonly PersonChannel[]): void {
		void shoot.edit({ kind: 'set-person-channels', personId: person.id, channels });
	}

	function moved(person: Person, from: number, to: number): readonly PersonChannel[] {
		const channels = person.channels.filter((_, index) => index !== from);
		channels.splice(to, 0, person.channels[from]!);
		return channels;
	}

	function drop(person: Person, place: number): void {
		if (carried?.personId === person.id && carried.place !== place)
			setChannels(person, moved(person, carried.place, place));
		carried = undefined;
	}

	function addChannel(person: Person, value: string): void {
		const channel = channels[Number(value)];
		if (channel) setChannels(person, [...person.channels, channel]);
	}

	function isOf(person: Person, { deviceId, channel }: PersonChannel): boolean {
		return person.channels.some((one) => one.deviceId === deviceId && one.channel === channel);
	}

	function words(channel: PersonChannel): string {
		return `${shoot.device(channel.deviceId)?.badge} ${channelWords(shoot, channel)}`;
	}

	/** Of the stretch that the program covers. */
	function spoke(person: Person): string {
		const flicks = spokenFlicks(sources.speech, person.id, range);
		const share = flicks / Math.max(1, range.outFlicks - range.inFlicks);
		return flicks === 0 ? 'not found to speak' : `speaks ${lengthWords(flicks)}, ${Math.round(100 * share)}%`;
	}

	function go(person: Person, onwards: boolean): void {
		sources.personId = person.id;
		toPassage({ sources, transport, view }, onwards);
	}

	function add(): void {
		const number = shoot.shoot.people.length + 1;
		void shoot.edit({ kind: 'add-person', id: crypto.randomUUID(), name: `Person ${number}`, channels: [] });
	}
</script>

<section class="panel flex flex-col gap-2 p-3" aria-label="People">
	<div class="flex items-center gap-2">
		<h2 class="text-base">People</h2>
		<label class="ml-auto flex items-center gap-1.5 text-xs">
			<input
				type="checkbox"
				class="size-4 rounded border-line text-accent"
				bind:checked={sources.playsOnlyPerson}
				disabled={!sources.person}
			/>
			play only {sources.person?.name ?? 'one'}
		</label>
	</div>
	<ul class="flex flex-col gap-2 text-sm" data-testid="people">
		{#each shoot.shoot.people as person (person.id)}
			{@const isShown = sources.person?.id === person.id}
			<li class="rounded border border-line p-1.5" class:border-accent={isShown} data-testid="person">
				<div class="flex items-center gap-1.5">
					<PersonMark mark={person.mark} />
					<EditableText
						value={person.name}
						label="Name of {person.name}"
						class="font-semibold"
						onchange={(name) => void shoot.edit({ kind: 'name-person', personId: person.id, name })}
					/>
					<span class="times ml-auto text-xs text-quiet" data-testid="spoke">{spoke(person)}</span>
					<button class="small" aria-label="Passage of {person.name} before" onclick={() => go(person, false)}
						><ChevronLeft size={14} /></button
					>
					<button class="small" aria-label="Next passage of {person.name}" onclick={() => go(person, true)}
						><ChevronRight size={14} /></button
					>
					<button
						class="small"
						aria-label="Remove {person.name}"
						onclick={() => void shoot.edit({ kind: 'drop-person', personId: person.id })}><X size={13} /></button
					>
				</div>
				<ol
					class="mt-1 flex flex-wrap items-center gap-1 text-xs"
					aria-label="Microphones of {person.name}, closest first"
				>
					{#each person.channels as channel, place (`${channel.deviceId} ${channel.channel}`)}
						<!-- Dragged by the pointer; the arrow button does the same. -->
						<li
							class="flex items-center gap-0.5 rounded bg-ground px-1"
							draggable="true"
							ondragstart={() => (carried = { personId: person.id, place })}
							ondragover={(event) => {
								if (carried?.personId === person.id) event.preventDefault();
							}}
							ondrop={() => drop(person, place)}
						>
							<span class="badge" style:--hue={shoot.hue(channel.deviceId)}
								>{shoot.device(channel.deviceId)?.badge}</span
							>
							<span>{channelWords(shoot, channel)}</span>
							{#if place > 0}<button
									class="small"
									aria-label="{words(channel)} is closer to {person.name}"
									onclick={() => setChannels(person, moved(person, place, place - 1))}><ChevronUp size={12} /></button
								>{/if}
							<button
								class="small"
								aria-label="{words(channel)} does not hear {person.name}"
								onclick={() =>
									setChannels(
										person,
										person.channels.filter((_, index) => index !== place)
									)}><X size={11} /></button
							>
						</li>
					{/each}
					<li>
						<select
							class="rounded border border-line bg-surface py-0 pr-6 pl-1 text-xs"
							aria-label="Add a microphone of {person.name}"
							value=""
							onchange={(event) => {
								addChannel(person, event.currentTarget.value);
								event.currentTarget.value = '';
							}}
						>
							<option value="">{person.channels.length === 0 ? 'choose a microphone' : 'add'}</option>
							{#each channels as channel, index (index)}{#if !isOf(person, channel)}<option value={`${index}`}
										>{words(channel)}</option
									>{/if}{/each}
						</select>
					</li>
				</ol>
			</li>
		{:else}
			<li class="text-quiet">
				{sources.report
					? 'No close microphone was found. Add who speaks, and choose what hears him best.'
					: 'Who speaks is found while the sources are compared.'}
			</li>
		{/each}
	</ul>
	<button class="inline-flex items-center gap-1 self-start text-xs text-accent underline" onclick={add}
		><Plus size={13} aria-hidden="true" /> Add a person</button
	>
	{#if sources.chosenSpeech}<ChosenSpeech speech={sources.chosenSpeech} />
	{:else if sources.speech.length > 0}<p class="text-xs text-quiet">
			{countWords(sources.speech.length, 'passage')} in the lanes below: choose one to put it right.
		</p>{/if}
</section>

<style>
	.small {
		display: grid;
		place-content: center;
		min-width: 18px;
		height: 18px;
		border-radius: 4px;
		cursor: pointer;
	}
	.small:hover {
		background: var(--line);
	}
</style>
