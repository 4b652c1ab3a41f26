import pMap from 'p-map';
import { joinSpanned, type JoinableFile, type Recording } from '../../../core/gather/spanned';
import type { AlignedLineUp, Alignment, Placed, Stray } from '../../../core/solve/alignment';
import { clockWords } from '../../../core/solve/timecode/clocks';
import { SHOWN_CONTRADICTION_SECONDS } from '../../../core/limits/solve';
import { invertedDevices } from '../../../core/proof/polarity';
import type { StrayReason } from '../../../core/solve/system/line-ups';
import { clockTimeWords } from '../../../core/time/words';
import { createEnginePool, type EnginePool } from '../../engine/engine-pool';
import { fileSound } from './file-sound';
import { MediaError } from '../../media/media-error';
import { probeFile } from '../../media/probe';
import { scanFolder } from '../../media/scan-folder';
import { type AlignedRecordings, alignRecordings, type AlignOptions } from './align-recordings';

/** Where a file lies. */
export interface PlacedFile {
	readonly path: string;
	readonly device: string;
	/** Of the longest part, where it lost samples. */
	readonly start: number;
	readonly ratePpm: number;
	readonly confidence: number;
	readonly method: 'audio' | 'timecode';
	/** Only where samples were lost: each part's own start, from a media time on. */
	readonly parts?: readonly { readonly mediaFrom: number; readonly start: number; readonly ratePpm: number }[];
	/** Only where its clock bends: moments of it that lie later than its start and rate say, straight lines between them. */
	readonly bend?: readonly { readonly media: number; readonly later: number }[];
	/** Only where it was asked for: what speaks for the place. */
	readonly evidence?: readonly ExplainedLink[];
	/** Mean distance of the evidence from the solution. */
	readonly residualSeconds?: number;
}

/** One piece of evidence, in words of numbers. Lags are of the other file's start against this one's. */
export interface ExplainedLink {
	readonly with: string;
	readonly lagSeconds: number;
	readonly rateDifferencePpm?: number;
	readonly residualSeconds: number;
	readonly overlapSeconds: number;
	readonly windows: number;
	readonly agreeing: number;
	readonly strength: number;
	readonly runnerUp?: number;
}

/** What `align` writes. Times are seconds; `timelineTime = start + mediaTime * (1 + ratePpm * 1e-6)`, plus `bend` where there is one. */
export interface AlignmentFile {
	readonly format: 'open-choir.alignment';
	readonly version: 1;
	readonly groups: readonly {
		readonly id: string;
		readonly reference: string;
		readonly clips: readonly PlacedFile[];
	}[];
	readonly unplaced: readonly {
		readonly path: string;
		readonly device: string;
		readonly reason: StrayReason;
		readonly detail?: string;
	}[];
	/** Sentences about what else was found: lost samples, clocks that are off, evidence that was dropped. */
	readonly remarks?: readonly string[];
	readonly timing: {
		/** From the program's start until it looked at the first file. */
		readonly startSeconds: number;
		/** Finding the files, and what they tell of themselves. */
		readonly probeSeconds: number;
		/** While any file was being read, `probeSeconds` with it; and all the rest. */
		readonly decodeSeconds: number;
		readonly alignSeconds: number;
		/** Seconds that threads were at each kind of the engine's work; several run side by side. */
		readonly threads: Readonly<Record<string, number>>;
	};
}

/** Lines up all media below a folder; needs no shoot in the database and writes nothing. */
export async function alignFolder(
	folder: string,
	options: AlignOptions & { readonly explain?: boolean } = {}
): Promise<AlignmentFile> {
	const began = performance.now();
	// Threads start while files are looked at.
	const pool = createEnginePool();
	try {
		return await alignWith(pool, folder, began, options);
	} finally {
		await pool.close();
	}
}

/** All that lies below a folder, read and lined up. */
export interface AlignedFolder {
	readonly recordings: readonly Recording[];
	readonly aligned: AlignedRecordings;
	/** Files that could not be read. */
	readonly unreadable: AlignmentFile['unplaced'];
	readonly probeSeconds: number;
}

export async function alignBelow(
	pool: EnginePool,
	folder: string,
	began: number,
	options: AlignOptions
): Promise<AlignedFolder> {
	const found = await scanFolder(folder);
	const unreadable: AlignmentFile['unplaced'][number][] = [];
	const probed = await pMap(
		found,
		async (file): Promise<JoinableFile | undefined> => {
			try {
				if (file.reason !== undefined) throw new MediaError('unreadable', file.reason);
				return {
					id: file.path,
					device: file.device,
					path: file.relativePath,
					facts: await probeFile(file.path, options.signal)
				};
			} catch (error) {
				if (!(error instanceof MediaError) || error.kind === 'tool-missing') throw error;
				unreadable.push({ path: file.relativePath, device: file.device, reason: 'unreadable', detail: error.message });
				return undefined;
			}
		},
		{ concurrency: 4 }
	);
	const files = probed.filter((file) => file !== undefined);
	const probeSeconds = (performance.now() - began) / 1000;
	const recordings = joinSpanned(files);
	const aligned = await alignRecordings(recordings, fileSound(pool, options.signal), pool, options);
	return { recordings, aligned, unreadable, probeSeconds };
}

async function alignWith(
	pool: EnginePool,
	folder: string,
	began: number,
	options: AlignOptions & { readonly explain?: boolean }
): Promise<AlignmentFile> {
	const { recordings, aligned, unreadable, probeSeconds } = await alignBelow(pool, folder, began, options);
	const unplaced = [...unreadable];
	for (const stray of aligned.alignment.strays) {
		for (const { file } of recordings[stray.clip]!.parts) {
			const detail = aligned.unreadable.get(file.id);
			unplaced.push({
				path: file.path,
				device: file.device,
				...(detail === undefined
					? { reason: stray.reason, ...strayDetail(stray, recordings) }
					: { reason: 'unreadable' as const, detail })
			});
		}
	}
	const groups = aligned.alignment.lineUps.map((lineUp, index) => ({
		id: `g${index + 1}`,
		reference: lineUp.referenceDevice,
		clips: lineUp.placed.flatMap((placed) =>
			recordings[placed.clip]!.parts.map((part) => ({
				...describeFile(part.file, part.offsetSeconds, placed),
				...(options.explain ? explained(placed, lineUp, recordings) : {})
			}))
		)
	}));
	const heard = [...aligned.soundTimecodes].map(
		([clip, { channel, quality }]) =>
			`${nameOf(recordings[clip]!)}: timecode heard on channel ${channel + 1}, ${Math.round(quality * 100)}% of its frames.`
	);
	const remarks = [...heard, ...remarksOn(aligned.alignment, recordings)];
	return {
		format: 'open-choir.alignment',
		version: 1,
		groups,
		unplaced,
		...(remarks.length > 0 ? { remarks } : {}),
		timing: {
			startSeconds: rounded(began / 1000, 3),
			probeSeconds: rounded(probeSeconds, 3),
			decodeSeconds: rounded(probeSeconds + aligned.decodeSeconds, 3),
			alignSeconds: rounded(aligned.alignSeconds, 3),
			threads: Object.fromEntries([...pool.spent()].map(([kind, seconds]) => [kind, rounded(seconds, 3)]))
		}
	};
}

/** A file's place: its own start, and its parts where samples were lost in it. */
function describeFile(file: JoinableFile, offsetSeconds: number, placed: Placed): PlacedFile {
	const factor = 1 + placed.ratePpm * 1e-6;
	const until = offsetSeconds + file.facts.durationSeconds;
	const parts = placed.parts
		.map((part, index) => ({ ...part, toSeconds: placed.parts[index + 1]?.fromSeconds ?? Infinity }))
		.filter((part) => part.fromSeconds < until && part.toSeconds > offsetSeconds)
		.map((part) => ({
			mediaFrom: rounded(Math.max(0, part.fromSeconds - offsetSeconds), 4),
			start: rounded(part.startSeconds + offsetSeconds * factor, 7),
			ratePpm: rounded(placed.ratePpm, 4),
			seconds: Math.min(until, part.toSeconds) - Math.max(offsetSeconds, part.fromSeconds)
		}));
	const longest = [...parts].sort((x, y) => y.seconds - x.seconds)[0];
	return {
		path: file.path,
		device: file.device,
		start: longest?.start ?? rounded(placed.startSeconds + offsetSeconds * factor, 7),
		ratePpm: rounded(placed.ratePpm, 4),
		confidence: placed.confidence,
		method: placed.method,
		...(parts.length > 1
			? { parts: parts.map(({ mediaFrom, start, ratePpm }) => ({ mediaFrom, start, ratePpm })) }
			: {}),
		...(placed.bend
			? {
					bend: placed.bend.map(({ mediaSeconds, laterSeconds }) => ({
						media: rounded(mediaSeconds - offsetSeconds, 3),
						later: rounded(laterSeconds, 7)
					}))
				}
			: {})
	};
}

function nameOf(recording: Recording): string {
	return recording.parts[0]!.file.path;
}

function strayDetail({ ambiguity }: Stray, recordings: readonly Recording[]): { detail?: string } {
	if (!ambiguity) return {};
	const places = ambiguity.lagsSeconds.map(clockTimeWords).join(' or ');
	return { detail: `Against ${nameOf(recordings[ambiguity.other]!)} it could begin at ${places}.` };
}

function explained(
	{ clip, residualSeconds }: Placed,
	lineUp: AlignedLineUp,
	recordings: readonly Recording[]
): Pick<PlacedFile, 'evidence' | 'residualSeconds'> {
	const evidence = lineUp.links
		.filter((link) => link.a === clip || link.b === clip)
		.map(({ a, b, evidence: own, runnerUp }): ExplainedLink => {
			const sign = a === clip ? 1 : -1;
			return {
				with: nameOf(recordings[a === clip ? b : a]!),
				lagSeconds: rounded(sign * own.lagSeconds, 6),
				...(own.rate ? { rateDifferencePpm: rounded(sign * own.rate.differencePpm, 3) } : {}),
				residualSeconds: rounded(own.residualSeconds, 6),
				overlapSeconds: rounded(own.overlapSeconds, 3),
				windows: own.windows,
				agreeing: own.inliers,
				strength: rounded(own.strength, 1),
				...(runnerUp === undefined ? {} : { runnerUp: rounded(runnerUp, 2) })
			};
		});
	return { evidence, residualSeconds: rounded(residualSeconds, 6) };
}

/** What an editor should know beside the places. */
function remarksOn(alignment: Alignment, recordings: readonly Recording[]): readonly string[] {
	const lost = alignment.lineUps.flatMap(({ placed }) =>
		placed.flatMap(({ clip, losses }) =>
			losses.map(
				(loss) =>
					`${nameOf(recordings[clip]!)}: ${loss.lostSeconds.toFixed(2)} s lost at ${clockTimeWords(loss.atSeconds)}.`
			)
		)
	);
	const clocks = alignment.lineUps.flatMap((lineUp) =>
		lineUp.clocks.filter((clock) => !clock.agrees).map((clock) => `${clock.device}: ${clockWords(clock)}`)
	);
	const dropped = alignment.contradictory.map(
		({ a, b }) =>
			`${nameOf(recordings[a]!)} and ${nameOf(recordings[b]!)}: a likeness was dropped, most others speak against it.`
	);
	const inverted = alignment.lineUps.flatMap((lineUp) => {
		const votes = lineUp.links.flatMap(({ a, b, evidence: { direct } }) => {
			const [one, other] = [recordings[a]!.device, recordings[b]!.device];
			return direct?.isInverted === undefined ? [] : [{ a: one, b: other, isInverted: direct.isInverted }];
		});
		return invertedDevices(votes, lineUp.referenceDevice).map(
			(device) => `${device}: its polarity is the other way round from that of ${lineUp.referenceDevice}.`
		);
	});
	const contradictions = alignment.lineUps.flatMap(({ links }) =>
		links
			.filter(({ offSeconds = 0 }) => offSeconds > SHOWN_CONTRADICTION_SECONDS)
			.map(
				({ a, b, offSeconds = 0 }) =>
					`${nameOf(recordings[a]!)} and ${nameOf(recordings[b]!)}: their common sound contradicts all others by ${(offSeconds * 1000).toFixed(1)} ms.`
			)
	);
	return [...lost, ...new Set(clocks), ...inverted, ...contradictions, ...dropped];
}

function rounded(value: number, digits: number): number {
	// Adding zero turns -0 into 0.
	return Number(value.toFixed(digits)) + 0;
}
