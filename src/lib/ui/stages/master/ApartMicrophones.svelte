<script lang="ts">
	import { type ApartMicrophone, apartMicrophones, broughtTogether } from '../../../core/master/bring-together';
	import { flicksToSeconds } from '../../../core/time/flicks';
	import { millisecondsWords } from '../../controls/words';
	import { useShoot } from '../../state/shoot-state.svelte';
	import { useSources } from '../../state/sources-state.svelte';
	import { changeMaster, channelWords } from './master-choice';

	/** Microphones that hear the same voice elsewhere in time or upside down: one click brings them together. */
	const shoot = useShoot();
	const sources = useSources();
	/** Where people lie further apart in a microphone, it can be together with one of them only. */
	const APART_SECONDS = 0.001;

	const apart = $derived(sources.report ? apartMicrophones(shoot.master, shoot.shoot.people, sources.report) : []);

	function words({ channel, shiftFlicks, isInverted, personIds }: ApartMicrophone): string {
		const names = personIds.map((id) => shoot.shoot.people.find((one) => one.id === id)?.name).join(' and ');
		const own = personIds.length === 1 ? 'his or her own microphone' : 'their own microphones';
		const when = `${millisecondsWords(Math.abs(flicksToSeconds(shiftFlicks)))} ${shiftFlicks < 0 ? 'later' : 'earlier'}`;
		return `${channelWords(shoot, channel)} hears ${names} ${when}${isInverted ? ', and upside down,' : ''} than ${own}: mixed they sound hollow.`;
	}
</script>

{#if apart.length > 0}
	<div class="flex flex-col gap-1 rounded border border-line p-2 text-xs" data-testid="apart">
		{#each apart as one (`${one.channel.deviceId} ${one.channel.channel}`)}
			<p>
				{words(one)}
				{#if one.spreadSeconds > APART_SECONDS}<span class="text-attention"
						>They sit up to {millisecondsWords(one.spreadSeconds)} apart in it: it can be together with one of them only.</span
					>{/if}
			</p>
		{/each}
		<button
			class="self-start text-accent underline"
			onclick={() =>
				changeMaster(shoot, (master) =>
					sources.report
						? broughtTogether(master, apartMicrophones(master, shoot.shoot.people, sources.report))
						: undefined
				)}>Bring them together</button
		>
	</div>
{/if}
