import { createHash } from 'node:crypto';
import { readdir, rename, writeFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { type ColourTags, dynamicRangeOf, matrixOf } from '../../../core/gather/picture-facts';
import { masterTitle } from '../../../core/master/words';
import { masterOf } from '../../../core/shoot/lookup';
import type { Shoot } from '../../../core/shoot/shoot';
import type { MediaFacts } from '../../../core/gather/media-facts';
import { compile, type PictureInterval, type Plan } from '../../../core/program/compile';
import { videoFrameToFlicks } from '../../../core/time/flicks';
import { mixSound } from '../../engine/mix-sound';
import { MIX_SAMPLE_RATE } from '../../engine/mix.worker';
import { joinMovie, type PictureFormat, renderPiece } from '../../media/render-picture';
import { soundFilesOf } from '../../media/sound-inputs';
import { programOf } from '../../shoots/found';
import { whoIsHeard } from '../master/who-is-heard';
import type { HandOffRequest, WriteHandOff } from './hand-off';

/** Heavier work first: pictures take most of the time, the mix and the joining the rest. */
const PICTURE_SHARE = 0.9;

interface SourceFile {
	readonly id: string;
	readonly path: string;
	readonly facts: MediaFacts;
}

/**
 * Renders a program to MP4. Pieces that are finished stay in the working folder, so that a render that was cut off goes on
 * where it was.
 */
export const writeMovie: WriteHandOff = async ({ runtime, shoot, lineUpId, working, signal, progress }) => {
	const plan = compile(shoot, programOf(shoot, lineUpId), await whoIsHeard(runtime, shoot, lineUpId));
	const files = new Map(
		(
			await runtime.database.query<SourceFile>('select id, path, facts from media_file where shoot_id = $1', [shoot.id])
		).map((file) => [file.id, file])
	);
	const format: PictureFormat = {
		rate: shoot.rate,
		width: shoot.width + (shoot.width % 2),
		height: shoot.height + (shoot.height % 2),
		colour: movieColour(shoot)
	};
	const pieces = await renderPieces(plan, files, format, working, { signal, progress });
	progress(PICTURE_SHARE, 'Mixing the sound');
	const sound = join(working, 'sound.f32');
	await mixSound(
		{
			intervals: plan.sounds.map((interval) => ({
				interval,
				files: interval.run.files.map(({ fileId }) => {
					const { path, facts } = files.get(fileId)!;
					return soundFilesOf(path, facts);
				})
			})),
			inFlicks: videoFrameToFlicks(plan.fromFrame, shoot.rate),
			outFlicks: videoFrameToFlicks(plan.toFrame, shoot.rate),
			target: sound
		},
		signal
	);
	progress(0.96, 'Putting picture and sound together');
	// Names beside the list, not paths: those may hold anything, a new line too.
	const list = join(working, 'pieces.txt');
	await writeFile(list, pieces.map((path) => `file '${basename(path)}'\n`).join(''));
	const movie = join(working, 'movie.part.mp4');
	const notes = {
		title: shoot.name,
		sound: masterTitle(shoot, masterOf(shoot, lineUpId)),
		people: shoot.people.map((person) => person.name)
	};
	await joinMovie(list, sound, MIX_SAMPLE_RATE, notes, movie, signal);
	return movie;
};

/** The movie's colour is the main camera's; of high dynamic range it is what that is brought down to. */
function movieColour(shoot: Shoot): ColourTags {
	const main = shoot.clips.find((clip) => clip.deviceId === shoot.mainCameraId && clip.parts[0]?.picture);
	const colour = main?.parts[0]?.picture?.colour;
	if (colour && dynamicRangeOf(colour) === 'SDR')
		return { matrix: matrixOf(colour, shoot.height), primaries: 'bt709', transfer: 'bt709', ...colour };
	return shoot.height < 720 && !colour
		? { matrix: 'smpte170m', primaries: 'smpte170m', transfer: 'smpte170m', range: 'tv' }
		: { matrix: 'bt709', primaries: 'bt709', transfer: 'bt709', range: 'tv' };
}

async function renderPieces(
	plan: Plan,
	files: ReadonlyMap<string, SourceFile>,
	format: PictureFormat,
	working: string,
	context: Pick<HandOffRequest, 'signal' | 'progress'>
): Promise<readonly string[]> {
	const total = plan.toFrame - plan.fromFrame;
	const finished = new Set(await readdir(working));
	const paths: string[] = [];
	let done = 0;
	for (const piece of plan.pictures) {
		context.signal.throwIfAborted();
		const { shown } = piece;
		const source = shown.kind === 'black' ? undefined : files.get(shown.source.fileId);
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
					...(source.facts.video ? { picture: source.facts.video } : {})
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
function pieceKey(piece: PictureInterval, format: PictureFormat, source: SourceFile | undefined): string {
	return createHash('sha256')
		.update(JSON.stringify([piece.fromFrame, piece.toFrame, piece.shown, format, source?.path ?? null]))
		.digest('hex')
		.slice(0, 24);
}
