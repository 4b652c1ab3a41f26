import { createHash } from 'node:crypto';
import { mkdir, readdir, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import type { MediaFacts } from '../../../core/gather/media-facts';
import { type PicturePiece, type RenderPlan, renderPlan } from '../../../core/program/render-plan';
import type { Shoot } from '../../../core/shoot/shoot';
import { secondsToFlicks, videoFrameToFlicks } from '../../../core/time/flicks';
import { mixSound } from '../../engine/mix-sound';
import { MIX_SAMPLE_RATE } from '../../engine/mix.worker';
import type { JobContext } from '../../jobs/job-queue';
import { joinMovie, type PictureFormat, renderPiece } from '../../media/render-picture';
import { soundFilesOf } from '../../media/sound-inputs';
import type { Runtime } from '../../runtime';
import { putInPlace } from './hand-offs';
import { loadShoot } from '../../shoots/load-shoot';
import { ShootError } from '../../shoots/shoot-error';

const Input = z.object({ lineUpId: z.uuid() });

/** Heavier work first: pictures take most of the time, the mix and the joining the rest. */
const PICTURE_SHARE = 0.9;

interface SourceFile {
	readonly id: string;
	readonly path: string;
	readonly facts: MediaFacts;
}

/** Begins to render a program. @throws ShootError there is nothing to render */
export async function orderMovie(runtime: Runtime, shootId: string, lineUpId: string): Promise<string> {
	const shoot = await loadShoot(runtime.database, shootId);
	planOf(shoot, lineUpId);
	if (shoot.master.length === 0)
		throw new ShootError('not-possible', 'Choose a master audio source first: the movie would be silent.');
	return runtime.queue.add(shootId, 'render', `Rendering ${shoot.name}`, { lineUpId });
}

function planOf(shoot: Shoot, lineUpId: string): RenderPlan {
	const program = shoot.programs.find((one) => one.lineUpId === lineUpId);
	if (!program) throw new ShootError('not-possible', 'There is no program yet: line up the clips first.');
	return renderPlan(shoot, program);
}

/**
 * Job: renders a program to MP4. Pieces that are finished are kept in the job's folder, so that a render that was cut
 * off goes on where it was; the movie appears under its name only when it is whole.
 */
export async function renderMovie(runtime: Runtime, context: JobContext): Promise<Record<string, unknown>> {
	const { lineUpId } = Input.parse(context.input);
	const shoot = await loadShoot(runtime.database, context.shootId);
	const plan = planOf(shoot, lineUpId);
	const files = new Map(
		(
			await runtime.database.query<SourceFile>('select id, path, facts from media_file where shoot_id = $1', [
				context.shootId
			])
		).map((file) => [file.id, file])
	);
	const working = join(runtime.settings.dataFolder, 'rendering', context.jobId);
	await mkdir(working, { recursive: true });
	try {
		const format: PictureFormat = {
			rate: shoot.rate,
			width: shoot.width + (shoot.width % 2),
			height: shoot.height + (shoot.height % 2)
		};
		const pieces = await renderPieces(plan, files, format, working, context);
		context.progress(PICTURE_SHARE, 'Mixing the sound');
		const sound = join(working, 'sound.f32');
		await mixSound(
			{
				pieces: plan.sounds.map((piece) => {
					const { path, facts } = files.get(piece.source.fileId)!;
					return {
						piece,
						files: soundFilesOf(path, facts),
						channels: facts.audio!.channels,
						soundStartFlicks: secondsToFlicks(facts.audio!.startSeconds)
					};
				}),
				inFlicks: videoFrameToFlicks(plan.fromFrame, shoot.rate),
				outFlicks: videoFrameToFlicks(plan.toFrame, shoot.rate),
				target: sound
			},
			context.signal
		);
		context.progress(0.96, 'Putting picture and sound together');
		const list = join(working, 'pieces.txt');
		await writeFile(list, pieces.map((path) => `file 'file:${path.replaceAll("'", "'\\''")}'\n`).join(''));
		const movie = join(working, 'movie.part.mp4');
		await joinMovie(list, sound, MIX_SAMPLE_RATE, shoot.name, movie, context.signal);
		const handOffId = await putInPlace(runtime, shoot, movie, 'movie', 'mp4');
		await rm(working, { recursive: true, force: true });
		return { handOffId };
	} catch (error) {
		// Stopped by the editor: nothing of it is wanted any more. Cut off or failed: what is done can be used again.
		if (context.signal.aborted && (context.signal.reason as Error | undefined)?.message === 'Stopped.')
			await rm(working, { recursive: true, force: true });
		throw error;
	}
}

async function renderPieces(
	plan: RenderPlan,
	files: ReadonlyMap<string, SourceFile>,
	format: PictureFormat,
	working: string,
	context: JobContext
): Promise<readonly string[]> {
	const total = plan.toFrame - plan.fromFrame;
	const finished = new Set(await readdir(working));
	const paths: string[] = [];
	let done = 0;
	for (const piece of plan.pictures) {
		context.signal.throwIfAborted();
		const from = piece.source ?? piece.holds;
		const source = from && files.get(from.fileId);
		const name = `${pieceKey(piece, format, source)}.mp4`;
		const path = join(working, name);
		const tell = (frames: number) =>
			context.progress((PICTURE_SHARE * (done + frames)) / total, `${done + frames} of ${total} frames`);
		if (!finished.has(name)) {
			const passing = join(working, `part-${name}`);
			await renderPiece(
				piece,
				source && {
					path: source.path,
					containerStartSeconds: source.facts.containerStartSeconds,
					durationSeconds: source.facts.durationSeconds
				},
				format,
				passing,
				context.signal,
				tell
			);
			await rename(passing, path);
		}
		done += piece.toFrame - piece.fromFrame;
		tell(0);
		paths.push(path);
	}
	return paths;
}

/** Two runs of a job take the same piece for the same only if all that makes it is equal. */
function pieceKey(piece: PicturePiece, format: PictureFormat, source: SourceFile | undefined): string {
	return createHash('sha256')
		.update(JSON.stringify([piece, format, source?.path ?? null]))
		.digest('hex')
		.slice(0, 24);
}
