import { joinSpanned, type JoinableFile } from '../../core/devices/spanned';
import type { StrayReason } from '../../core/solve/line-ups';
import { createEnginePool } from '../compute/engine-pool';
import { inParallel } from '../compute/in-parallel';
import { decodeForAnalysis } from '../media/decode-sound';
import { MediaError } from '../media/media-error';
import { probeFile } from '../media/probe';
import { scanFolder } from '../media/scan-folder';
import { alignRecordings, type AlignOptions } from './align-recordings';

/** What `align` writes. Times are seconds; `timelineTime = start + mediaTime * (1 + ratePpm * 1e-6)`. */
export interface AlignmentFile {
	readonly format: 'open-choir.alignment';
	readonly version: 1;
	readonly groups: readonly {
		readonly id: string;
		readonly reference: string;
		readonly clips: readonly {
			readonly path: string;
			readonly device: string;
			readonly start: number;
			readonly ratePpm: number;
			readonly confidence: number;
			readonly method: 'audio';
		}[];
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
		const decode = (file: JoinableFile, onProgress: (seconds: number) => void) =>
			decodeForAnalysis(file.id, file.facts, { onProgress, ...(options.signal ? { signal: options.signal } : {}) });
		const recordings = joinSpanned(files);
		const aligned = await alignRecordings(recordings, decode, pool, options);
		for (const stray of aligned.alignment.strays) {
			for (const { file } of recordings[Number(stray.clipId)]!.parts) {
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
			clips: lineUp.placements.flatMap((placement) =>
				recordings[Number(placement.clipId)]!.parts.map(({ file, offsetSeconds }) => ({
					path: file.path,
					device: file.device,
					start: rounded(placement.startSeconds + offsetSeconds * (1 + placement.ratePpm * 1e-6), 7),
					ratePpm: rounded(placement.ratePpm, 4),
					confidence: placement.confidence,
					method: 'audio' as const
				}))
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

function rounded(value: number, digits: number): number {
	// Adding zero turns -0 into 0.
	return Number(value.toFixed(digits)) + 0;
}
