<script lang="ts">
	import Clapperboard from '@lucide/svelte/icons/clapperboard';
	import Download from '@lucide/svelte/icons/download';
	import FileText from '@lucide/svelte/icons/file-text';
	import { Button, Progressbar } from 'flowbite-svelte';
	import { API } from '../../../contract/endpoints';
	import {
		HAND_OFF_KINDS,
		HAND_OFFS,
		type HandOffDescription,
		type HandOffKind,
		RECEIVERS
	} from '../../../contract/hand-offs';
	import { videoFrameToFlicks } from '../../../core/time/flicks';
	import { rateInWords } from '../../../core/time/rational';
	import { countWords, lengthWords, progressWords, sizeWords, timecodeWords } from '../../controls/words';
	import { ask } from '../../state/request';
	import { useShoot } from '../../state/shoot-state.svelte';

	const shoot = useShoot();
	let watching = $state<string>();
	let beginning = $state<HandOffKind>();

	const plan = $derived(shoot.plan);
	const jobs = $derived(shoot.jobs.filter((job) => job.kind === 'hand-off' && job.state !== 'done'));
	const isBusy = $derived(jobs.some((job) => job.state === 'running' || job.state === 'waiting'));
	const masterWords = $derived(
		[...new Set(shoot.master.map((one) => one.deviceId))]
			.map(
				(id) =>
					`${shoot.device(id)?.name}: ${shoot.master
						.filter((one) => one.deviceId === id)
						.map((one) => shoot.device(id)?.channelNames[one.channel] || `channel ${one.channel + 1}`)
						.join(', ')}`
			)
			.join('; ')
	);

	function describe(kind: string): HandOffDescription | undefined {
		return HAND_OFFS[kind as HandOffKind];
	}

	async function begin(kind: HandOffKind): Promise<void> {
		const { lineUpId } = shoot;
		if (!lineUpId) return;
		beginning = kind;
		await shoot.attempt(async () => void (await ask(API.handOff, { id: shoot.shootId }, { kind, lineUpId })));
		beginning = undefined;
	}

	function frameLength(frames: number): string {
		return lengthWords(videoFrameToFlicks(frames, shoot.shoot.rate));
	}
</script>

{#if !shoot.program || !plan}
	<p class="m-auto max-w-md p-10 text-center text-quiet">
		There is no program to hand off yet. <a class="text-accent underline" href="/shoots/{shoot.shootId}/line-up"
			>Line up</a
		> the clips first.
	</p>
{:else}
	<div class="grid h-full min-h-0 grid-cols-[300px_minmax(0,1fr)_minmax(0,1.3fr)] gap-3">
		<section class="panel flex min-h-0 flex-col gap-4 overflow-auto p-3" aria-label="What to hand off">
			{#each RECEIVERS as receiver (receiver)}
				<div>
					<h2 class="text-base">For the {receiver}</h2>
					{#each HAND_OFF_KINDS.filter((one) => HAND_OFFS[one].receiver === receiver) as kind (kind)}
						{@const { name, holds, lacks, isLong, needsMaster } = HAND_OFFS[kind]}
						<p class="mt-1 text-sm text-quiet">{holds} {lacks}</p>
						<Button
							class="mt-2 mb-3 w-full"
							color={isLong ? 'primary' : 'alternative'}
							disabled={(isLong && isBusy) || beginning === kind || (needsMaster && shoot.master.length === 0)}
							onclick={() => begin(kind)}
							data-testid="hand-off-{kind}"
						>
							{#if isLong}<Clapperboard size={18} class="mr-2" /> Render the {name}
							{:else}<FileText size={18} class="mr-2" /> Write {name}{/if}
						</Button>
					{/each}
				</div>
			{/each}
		</section>
		<section class="panel min-h-0 overflow-auto p-3" aria-label="What will be in it">
			<h2 class="text-base">What will be in it</h2>
			<dl class="mt-2 grid grid-cols-[6rem_1fr] gap-y-1 text-sm">
				<dt class="text-quiet">Program</dt>
				<dd>
					{countWords(shoot.shots.length, 'shot')},
					<span class="times">{lengthWords(shoot.program.outFlicks - shoot.program.inFlicks)}</span>
				</dd>
				<dt class="text-quiet">From, to</dt>
				<dd class="times">
					{timecodeWords(shoot.program.inFlicks, shoot.shoot.rate)} – {timecodeWords(
						shoot.program.outFlicks,
						shoot.shoot.rate
					)}
				</dd>
				<dt class="text-quiet">Picture</dt>
				<dd class="times">{shoot.shoot.width}×{shoot.shoot.height}, {rateInWords(shoot.shoot.rate)} frames a second</dd>
				<dt class="text-quiet">Sound</dt>
				<dd class:text-attention={!masterWords}>{masterWords || 'none: choose a master first'}</dd>
			</dl>
			{#if plan.stoodInFrames > 0}
				<p class="mt-3 text-sm text-attention" data-testid="stand-in">
					For {frameLength(plan.stoodInFrames)} the called angle has no picture; {shoot.device(
						shoot.shoot.mainCameraId ?? ''
					)?.name ?? 'another camera'} stands in, or whoever has one.
				</p>
			{/if}
			{#if plan.heldFrames > 0}
				<p class="mt-3 text-sm text-attention">
					For {frameLength(plan.heldFrames)} no camera has a picture: the nearest one is held there. Trim the program to avoid
					it.
				</p>
			{/if}
			{#if plan.blackFrames > 0}<p class="mt-3 text-sm text-attention">
					No camera has a picture anywhere in the program: the movie is black for {frameLength(plan.blackFrames)}. Trim
					it to avoid it.
				</p>{/if}
			{#if watching}
				<!-- The movie of a program has no captions of its own. -->
				<!-- svelte-ignore a11y_media_has_caption -->
				<video class="mt-3 w-full rounded-md" src="/api/hand-offs/{watching}" controls data-testid="movie-player"
				></video>
			{/if}
		</section>
		<section class="panel min-h-0 overflow-auto p-3" aria-label="Queue and what was handed off">
			<h2 class="text-base">Handed off</h2>
			{#each jobs as job (job.id)}
				<div class="border-b border-line py-2" data-testid="hand-off-job" data-state={job.state}>
					<p class="flex items-center gap-2 text-sm">
						<span class="flex-1">{job.title}</span>
						{#if job.state === 'running' || job.state === 'waiting'}<Button
								size="xs"
								color="alternative"
								onclick={() => shoot.changeJob(job.id, 'stop')}>Stop</Button
							>
						{:else}<Button size="xs" color="alternative" onclick={() => shoot.changeJob(job.id, 'retry')}
								>Start again</Button
							>{/if}
					</p>
					{#if job.state === 'running'}
						<Progressbar progress={Math.round(job.share * 100)} size="h-1.5" />
						<p class="mt-1 text-xs text-quiet">
							{progressWords(job.share, job.message, job.secondsLeft)}
						</p>
					{:else if job.state === 'failed'}<p class="text-sm text-attention">{job.error}</p>
					{:else}<p class="text-sm text-quiet">{job.state === 'stopped' ? 'Stopped.' : 'Waiting for its turn.'}</p>{/if}
				</div>
			{/each}
			<ul class="divide-y divide-line" data-testid="hand-offs">
				{#each shoot.shoot.handOffs as one (one.id)}
					<li class="py-2" data-testid="hand-off" data-kind={one.kind} data-id={one.id}>
						<p class="flex items-center gap-2 text-sm">
							<span class="min-w-0 flex-1 truncate" title={one.name}>{one.name}</span>
							{#if describe(one.kind)?.isPlayable}<button
									class="text-accent underline"
									onclick={() => (watching = one.id)}>watch</button
								>{/if}
							<a
								class="inline-flex items-center gap-1 text-accent underline"
								href="/api/hand-offs/{one.id}?download"
								download={one.name}><Download size={14} aria-hidden="true" /> keep</a
							>
						</p>
						<p class="times truncate text-xs text-quiet" title="SHA-256 {one.sha256}">
							{sizeWords(one.sizeBytes)} · sha256 {one.sha256.slice(0, 16)}…
						</p>
					</li>
				{:else}
					{#if jobs.length === 0}<li class="py-2 text-sm text-quiet">Nothing was handed off yet.</li>{/if}
				{/each}
			</ul>
		</section>
	</div>
{/if}
