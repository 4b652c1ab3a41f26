<script lang="ts">
	import Check from '@lucide/svelte/icons/check';
	import CircleQuestionMark from '@lucide/svelte/icons/circle-question-mark';
	import Moon from '@lucide/svelte/icons/moon';
	import Redo2 from '@lucide/svelte/icons/redo-2';
	import Sun from '@lucide/svelte/icons/sun';
	import Undo2 from '@lucide/svelte/icons/undo-2';
	import { Popover } from 'flowbite-svelte';
	import { countWords, progressWords } from '../controls/words';
	import StorageView from './StorageView.svelte';
	import type { Stage } from '../state/stages';
	import { useShoot } from '../state/shoot-state.svelte';
	import { isPausable } from '../../contract/jobs';
	import { openingMotion } from '../controls/opening-motion';

	let { stage, onhelp }: { stage: Stage; onhelp: () => void } = $props();

	const shoot = useShoot();
	let dark = $state(document.documentElement.classList.contains('dark'));

	interface Step {
		readonly stage: Stage;
		readonly title: string;
		readonly state: string;
		readonly done: boolean;
		readonly attention?: boolean;
	}

	const steps = $derived.by((): Step[] => {
		const { clips, badFiles, newFiles } = shoot.shoot;
		const { master } = shoot;
		const placed = clips.filter((clip) => clip.placement).length;
		const strays = shoot.strays.length;
		const doubtful = shoot.placed.filter((clip) => clip.placement.confidence < 0.9).length;
		const masterDevices = [...new Set(master.map((one) => one.deviceId))]
			.map((id) => shoot.device(id)?.badge)
			.join(', ');
		return [
			{
				stage: 'gather',
				title: 'Gather',
				state:
					newFiles.length > 0
						? `reading ${newFiles.length}`
						: badFiles.length > 0
							? `${clips.length} · ${badFiles.length} bad`
							: countWords(clips.length, 'clip'),
				done: newFiles.length === 0 && clips.length > 0,
				attention: badFiles.length > 0
			},
			{
				stage: 'line-up',
				title: 'Line up',
				state:
					placed === 0 ? 'not yet' : strays > 0 ? `${placed} · ${countWords(strays, 'stray')}` : `${placed} placed`,
				done: placed > 0 && strays === 0,
				attention: strays > 0
			},
			{
				stage: 'prove',
				title: 'Prove',
				state: placed === 0 ? '' : doubtful > 0 ? `${doubtful} doubtful` : 'none doubtful',
				done: placed > 0 && doubtful === 0
			},
			{ stage: 'master', title: 'Master', state: masterDevices || 'none', done: master.length > 0 },
			{
				stage: 'call',
				title: 'Call',
				state: shoot.shots.length > 0 ? countWords(shoot.shots.length, 'shot') : '',
				done: shoot.shots.length > 1
			},
			{ stage: 'hand-off', title: 'Hand off', state: '', done: false }
		];
	});

	function turn(): void {
		dark = !dark;
		document.documentElement.classList.toggle('dark', dark);
		localStorage.setItem('open-choir.theme', dark ? 'night' : 'paper');
	}
</script>

<header class="flex h-12 shrink-0 items-center gap-3 border-b border-line bg-surface px-3">
	<a href="/" class="font-title text-lg font-semibold" title="All shoots">Open Choir</a>
	<h1 class="max-w-56 truncate font-sans text-sm font-normal" title={shoot.shoot.name}>{shoot.shoot.name}</h1>
	<nav class="mx-auto flex items-stretch" aria-label="Stages">
		{#each steps as step, index (step.stage)}
			{#if index > 0}<span class="mt-4 w-3 border-t border-line" aria-hidden="true"></span>{/if}
			<a
				href="/shoots/{shoot.shootId}/{step.stage}"
				aria-current={step.stage === stage ? 'page' : undefined}
				class="step flex flex-col items-center rounded-md px-2.5 py-0.5 leading-tight"
				class:here={step.stage === stage}
			>
				<span class="flex items-center gap-1 text-sm"
					>{step.title}{#if step.done}<Check size={12} class="text-good" aria-label="done" />{/if}</span
				>
				<span class="text-[11px]" class:text-attention={step.attention} class:text-quiet={!step.attention}
					>{step.state || ' '}</span
				>
			</a>
		{/each}
	</nav>
	<button id="jobs-button" class="icon text-sm" aria-label="Running jobs" aria-haspopup="true" data-testid="jobs">
		{#if shoot.runningJobs.length > 0}<span class="ring" style:--share={shoot.runningJobs[0]!.share} aria-hidden="true"
			></span>{countWords(shoot.runningJobs.length, 'job')}{:else}<span class="text-quiet">no jobs</span>{/if}
	</button>
	<Popover
		transitionParams={openingMotion()}
		triggeredBy="#jobs-button"
		trigger="click"
		placement="bottom-end"
		class="w-96 text-sm"
	>
		<!-- a list that scrolls, in which often nothing can be pressed: the keyboard scrolls it -->
		<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
		<ul class="max-h-80 divide-y divide-line overflow-auto" tabindex="0" aria-label="Jobs">
			{#each shoot.jobs as job (job.id)}
				<li class="py-2">
					<div class="flex items-center gap-2">
						<span class="flex-1">{job.title}</span>
						{#if job.state === 'running' || job.state === 'waiting'}<button
								class="text-accent underline"
								onclick={() => shoot.changeJob(job.id, 'stop')}>{isPausable(job.kind) ? 'Pause' : 'Stop'}</button
							>
						{:else if job.state === 'failed' || job.state === 'stopped'}<button
								class="text-accent underline"
								onclick={() => shoot.changeJob(job.id, 'retry')}
								>{isPausable(job.kind) && job.state === 'stopped' ? 'Go on' : 'Start again'}</button
							>{/if}
					</div>
					<div class="text-xs text-quiet">
						{#if job.state === 'running'}{progressWords(job.share, job.message, job.secondsLeft)}
						{:else if job.state === 'failed'}<span class="text-attention">{job.error}</span>
						{:else if isPausable(job.kind) && job.state === 'stopped'}paused
						{:else}{job.state}{/if}
					</div>
				</li>
			{:else}
				<li class="py-2 text-quiet">Nothing has run yet.</li>
			{/each}
		</ul>
		<StorageView />
	</Popover>
	<button
		class="icon"
		aria-label="Undo"
		title={shoot.shoot.undo ? `Undo: ${shoot.shoot.undo}` : 'Nothing to undo'}
		disabled={!shoot.shoot.undo}
		onclick={() => shoot.undo()}><Undo2 size={17} /></button
	>
	<button
		class="icon"
		aria-label="Redo"
		title={shoot.shoot.redo ? `Redo: ${shoot.shoot.redo}` : 'Nothing to redo'}
		disabled={!shoot.shoot.redo}
		onclick={() => shoot.redo()}><Redo2 size={17} /></button
	>
	<button class="icon" aria-label={dark ? 'Light theme' : 'Dark theme'} onclick={turn}
		>{#if dark}<Sun size={17} />{:else}<Moon size={17} />{/if}</button
	>
	<button class="icon" aria-label="Keys" title="Keys (?)" onclick={onhelp}><CircleQuestionMark size={17} /></button>
</header>

<style>
	.step:hover {
		background: var(--ground);
	}
	.here {
		background: var(--ground);
		box-shadow: inset 0 -2px 0 var(--accent-fill);
		font-weight: 600;
	}
	.icon {
		display: inline-flex;
		align-items: center;
		gap: 6px;
		padding: 5px;
		border-radius: 6px;
		cursor: pointer;
		white-space: nowrap;
	}
	.icon:hover:not(:disabled) {
		background: var(--ground);
	}
	.icon:disabled {
		opacity: 0.35;
		cursor: default;
	}
	.ring {
		width: 14px;
		height: 14px;
		border-radius: 50%;
		background: conic-gradient(var(--accent-fill) calc(var(--share) * 360deg), var(--line) 0);
	}
</style>
