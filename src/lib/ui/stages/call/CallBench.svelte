<script lang="ts">
	import Scissors from '@lucide/svelte/icons/scissors';
	import Trash2 from '@lucide/svelte/icons/trash-2';
	import { Button } from 'flowbite-svelte';
	import { onMount, tick } from 'svelte';
	import { lengthWords, timecodeWords } from '../../controls/words';
	import { callAngle, dropCall, moveCall } from '../../frame/keys';
	import Wall from '../../playback/Wall.svelte';
	import { useTransport } from '../../playback/transport.svelte';
	import { useShoot } from '../../state/shoot-state.svelte';

	const shoot = useShoot();
	const transport = useTransport();

	const index = $derived(shoot.shots.findIndex((shot) => shot.callId === shoot.selectedCallId));
	const selected = $derived(shoot.shots[index]);

	// Calls are made within the program: the work begins at its beginning, not before it.
	onMount(async () => {
		// On a page opened here the player gets its material first.
		await tick();
		const { program } = shoot;
		const at = transport.shownFlicks;
		if (!program || transport.playing || (at >= program.inFlicks && at < program.outFlicks)) return;
		transport.goTo(program.inFlicks);
	});
</script>

{#if !shoot.program}
	<p class="m-auto max-w-md p-10 text-center text-quiet">
		{shoot.placed.length === 0 ? 'Angles can be called once they are' : 'No camera has a place on this line-up yet:'}
		<a class="text-accent underline" href="/shoots/{shoot.shootId}/line-up">lined up</a>.
	</p>
{:else}
	<div class="flex h-full min-h-0 flex-col gap-2">
		<div class="min-h-0 flex-1"><Wall air oncall={(deviceId) => void callAngle(shoot, transport, deviceId)} /></div>
		<div class="flex h-8 shrink-0 items-center gap-2 text-sm" data-testid="shot-tools">
			{#if selected}
				<span class="whitespace-nowrap"
					>Shot {index + 1} of {shoot.shots.length},
					<span class="times">{timecodeWords(selected.inFlicks, shoot.shoot.rate)}</span>, {lengthWords(
						selected.outFlicks - selected.inFlicks
					)}</span
				>
				<select
					class="rounded-md border border-line bg-surface py-0.5 text-sm"
					aria-label="Angle of this shot"
					value={selected.deviceId}
					onchange={({ currentTarget: { value: deviceId } }) =>
						shoot.editLineUp((lineUpId) => ({ kind: 'change-shot', lineUpId, callId: selected.callId, deviceId }))}
					data-testid="shot-angle"
				>
					{#each shoot.angles as angle (angle.id)}<option value={angle.id}>{angle.badge} {angle.name}</option>{/each}
				</select>
				<Button
					size="xs"
					color="alternative"
					disabled={index < 1}
					onclick={() => moveCall(shoot, -1)}
					title="Move this call a frame earlier ([)">◂ frame</Button
				>
				<Button
					size="xs"
					color="alternative"
					disabled={index < 1}
					onclick={() => moveCall(shoot, 1)}
					title="Move this call a frame later (])">frame ▸</Button
				>
				<Button
					size="xs"
					color="alternative"
					disabled={shoot.shots.length < 2}
					onclick={() => dropCall(shoot)}
					title="Drop this call (Delete)"><Trash2 size={13} class="mr-1" /> Drop the call</Button
				>
			{:else}
				<span class="text-quiet"
					>Press a digit or an angle to call it, playing or standing still. Choose a shot in the program lane to change
					it.</span
				>
			{/if}
			<Button
				size="xs"
				color="alternative"
				class="ml-auto"
				onclick={() => shoot.editLineUp((lineUpId) => ({ kind: 'trim-to-all-angles', lineUpId }))}
				title="Begin where all steady angles exist, end where the first one ends"
				><Scissors size={13} class="mr-1" /> Trim to where all angles run</Button
			>
		</div>
	</div>
{/if}
