import { joinSpanned, type JoinableFile } from '../../core/devices/spanned';
import type { Placed } from '../../core/solve/align';
import type { StrayReason } from '../../core/solve/line-ups';
import { createEnginePool } from '../compute/engine-pool';
import { inParallel } from '../../core/tasks/in-parallel';
import { fileSound } from './file-sound';
import { MediaError } from '../media/media-error';
import { probeFile } from '../media/probe';
import { scanFolder } from '../media/scan-folder';
import { alignRecordings, type AlignOptions } from './align-recordings';

/** Where a file lies. */
export interface PlacedFile {
	readonly path: string;
	readonly device: string;
	/** Of the longest part, where it lost samples. */
	readonly start: number;
	readonly ratePpm: number;
	readonly confidence: number;
	readonly method: 'audio';
	/** Only where samples were lost: each part's own start, from a media time on. */
	readonly parts?: readonly { readonly mediaFrom: number; readonly start: number; readonly ratePpm: number }[];
}

/** What `align` writes. Times are seconds; `timelineTime = start + mediaTime * (1 + ratePpm * 1e-6)`. */
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
	readonly timing: { readonly decodeSeconds: number; readonly alignSeconds: number };
}

/** Lines up all media below a folder; needs no shoot in the database and writes nothing. */
export async function alignFolder(folder: string, options: AlignOptions = {}): Promise<AlignmentFile> {
	const began = performance.now();
	const found = await scanFolder(folder);
	const unplaced: { path: string; device: string; reason: StrayReason; detail?: string }[] = [];
	const probed = await inParallel(found, 4, async (file): Promise<JoinableFile | undefined> => {
		try {
			return {
				id: file.path,
				device: file.device,
				path: file.relativePath,
				facts: await probeFile(file.path, options.signal)
			};
		} catch (error) {
			if (!(error instanceof MediaError) || error.kind === 'tool-missing') throw error;
			unplaced.push({ path: file.relativePath, device: file.device, reason: 'unreadable', detail: error.message });
			return undefined;
		}
	});
	const files = probed.filter((file) => file !== undefined);
	const probeSeconds = (performance.now() - began) / 1000;
	const pool = createEnginePool();
	try {
		const recordings = joinSpanned(files);
		const aligned = await alignRecordings(recordings, fileSound(pool, options.signal), pool, options);
		for (const stray of aligned.alignment.strays) {
			for (const { file } of recordings[stray.clip]!.parts) {
				const detail = aligned.unreadable.get(file.id);
				unplaced.push({
					path: file.path,
					device: file.device,
					...(detail === undefined ? { reason: stray.reason } : { reason: 'unreadable' as const, detail })
				});
			}
		}
		const groups = aligned.alignment.lineUps.map((lineUp, index) => ({
			id: `g${index + 1}`,
			reference: lineUp.referenceDevice,
			clips: lineUp.placed.flatMap((placed) =>
				recordings[placed.clip]!.parts.map((part) => describeFile(part.file, part.offsetSeconds, placed))
			)
		}));
		return {
			format: 'open-choir.alignment',
			version: 1,
			groups,
			unplaced,
			timing: {
				decodeSeconds: rounded(probeSeconds + aligned.decodeSeconds, 3),
				alignSeconds: rounded(aligned.alignSeconds, 3)
			}
		};
	} finally {
		await pool.close();
	}
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
		method: 'audio',
		...(parts.length > 1
			? { parts: parts.map(({ mediaFrom, start, ratePpm }) => ({ mediaFrom, start, ratePpm })) }
			: {})
	};
}

function rounded(value: number, digits: number): number {
	// Adding zero turns -0 into 0.
	return Number(value.toFixed(digits)) + 0;
}
