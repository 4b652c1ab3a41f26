<script lang="ts">
	import { Clapperboard, Download, FileJson } from '@lucide/svelte';
	import { Button, Progressbar } from 'flowbite-svelte';
	import { renderPlan } from '../../../core/program/render-plan';
	import { videoFrameToFlicks } from '../../../core/time/flicks';
	import { rateInWords } from '../../../core/time/rational';
	import { countWords, lengthWords, sizeWords, timecodeWords, timeLeftWords } from '../../controls/words';
	import { request } from '../../state/request';
	import { useShoot } from '../../state/shoot-state.svelte';

	interface HandOff {
		readonly id: string;
		readonly kind: 'movie' | 'otio';
		readonly name: string;
		readonly sizeBytes: number;
		readonly sha256: string;
		readonly madeAt: string;
	}

	const shoot = useShoot();
	let handOffs = $state.raw<readonly HandOff[]>([]);
	let watching = $state<string>();
	let writing = $state(false);

	const plan = $derived(shoot.program ? renderPlan(shoot.shoot, shoot.program) : undefined);
	const jobs = $derived(shoot.jobs.filter((job) => job.kind === 'render' && job.state !== 'done'));
	const rendering = $derived(jobs.some((job) => job.state === 'running' || job.state === 'waiting'));
	const masterWords = $derived(
		[...new Set(shoot.shoot.master.map((one) => one.deviceId))]
			.map(
				(id) =>
					`${shoot.device(id)?.name}: ${shoot.shoot.master
						.filter((one) => one.deviceId === id)
						.map((one) => shoot.device(id)?.channelNames[one.channel] || `channel ${one.channel + 1}`)
						.join(', ')}`
			)
			.join('; ')
	);

	$effect(() => {
		// Read again whenever the shoot or its jobs change.
		void shoot.shoot.revision;
		void shoot.jobs;
		void refresh();
	});

	async function refresh(): Promise<void> {
		await shoot.read(async () => {
			handOffs = await request<HandOff[]>(`/api/shoots/${shoot.shootId}/hand-offs`);
		});
	}

	async function writeOtio(): Promise<void> {
		writing = true;
		await shoot.attempt(
			async () =>
				void (await request(`/api/shoots/${shoot.shootId}/hand-offs`, { kind: 'otio', lineUpId: shoot.lineUpId }))
		);
		await refresh();
		writing = false;
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
		<section class="panel flex min-h-0 flex-col gap-4 overflow-auto p-3" aria-label="What can leave">
			<div>
				<h2 class="text-base">For the audience</h2>
				<p class="mt-1 text-sm text-quiet">
					A movie of the program: MP4 with H.264 and AAC, drift corrected, with the master audio.
				</p>
				<Button
					class="mt-2 w-full"
					disabled={rendering || shoot.shoot.master.length === 0}
					onclick={() => shoot.startJob({ kind: 'render', lineUpId: shoot.lineUpId })}
					data-testid="render"><Clapperboard size={18} class="mr-2" /> Render the movie</Button
				>
			</div>
			<div>
				<h2 class="text-base">For the picture editor</h2>
				<p class="mt-1 text-sm text-quiet">
					OpenTimelineIO: the program, and every device as a track of its own, with names, clocks and original timecode.
				</p>
				<Button class="mt-2 w-full" color="alternative" disabled={writing} onclick={writeOtio} data-testid="write-otio"
					><FileJson size={18} class="mr-2" /> Write OpenTimelineIO</Button
				>
			</div>
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
		<section class="panel min-h-0 overflow-auto p-3" aria-label="Queue and what has left">
			<h2 class="text-base">What has left</h2>
			{#each jobs as job (job.id)}
				<div class="border-b border-line py-2" data-testid="render-job" data-state={job.state}>
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
							{Math.floor(job.share * 100)}% · {job.message}
							{timeLeftWords(job.secondsLeft)}
						</p>
					{:else if job.state === 'failed'}<p class="text-sm text-attention">{job.error}</p>
					{:else}<p class="text-sm text-quiet">{job.state === 'stopped' ? 'Stopped.' : 'Waiting for its turn.'}</p>{/if}
				</div>
			{/each}
			<ul class="divide-y divide-line" data-testid="hand-offs">
				{#each handOffs as one (one.id)}
					<li class="py-2" data-testid="hand-off" data-kind={one.kind} data-id={one.id}>
						<p class="flex items-center gap-2 text-sm">
							<span class="min-w-0 flex-1 truncate" title={one.name}>{one.name}</span>
							{#if one.kind === 'movie'}<button class="text-accent underline" onclick={() => (watching = one.id)}
									>watch</button
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
					{#if jobs.length === 0}<li class="py-2 text-sm text-quiet">Nothing has left yet.</li>{/if}
				{/each}
			</ul>
		</section>
	</div>
{/if}
