import { LRUCache } from 'lru-cache';
import pLimit from 'p-limit';
import type { PieceLines } from '../../../core/limits/pieces';
import type { Precedence } from '../../jobs/precedence';
import { MediaError } from '../media-error';
import { runTool } from '../run-tool';
import type { PictureFile } from './picture-file';
import { stillArguments } from './small-picture';

/** Small stills of files: key pictures, which are found soon wherever they are. */
export interface Stills {
	/**
	 * The key picture at or before a time, as a piece of one picture, which tells its own time.
	 * @param atSeconds since the file's first picture @throws MediaError
	 */
	still(file: PictureFile, atSeconds: number, lines: PieceLines): Promise<Uint8Array<ArrayBuffer>>;
}

const AT_ONCE = 2;
/** Some thousands of them. */
const MAX_BYTES = 64 * 2 ** 20;
const TIMEOUT_SECONDS = 60;
/** A still serves for all times within so long. */
const GRID_SECONDS = 0.5;

export function openStills(precedence: Precedence): Stills {
	const inTurn = pLimit(AT_ONCE);
	const kept = new LRUCache<string, Uint8Array<ArrayBuffer>, StillAsked>({
		maxSize: MAX_BYTES,
		sizeCalculation: (bytes) => Math.max(1, bytes.length),
		ignoreFetchAbort: true,
		allowStaleOnFetchAbort: true,
		fetchMethod: (_name, _stale, { context: { file, at, lines } }) =>
			precedence.run('at once', () => inTurn(() => make(file, at, lines)))
	});
	return {
		still(file, atSeconds, lines) {
			const at = Math.floor(atSeconds / GRID_SECONDS) * GRID_SECONDS;
			return kept.forceFetch(`${file.identity} ${lines} ${at}`, { context: { file, at, lines } });
		}
	};
}

interface StillAsked {
	readonly file: PictureFile;
	readonly at: number;
	readonly lines: PieceLines;
}

async function make(file: PictureFile, atSeconds: number, lines: PieceLines): Promise<Uint8Array<ArrayBuffer>> {
	for (const skipping of [true, false]) {
		const blocks: Buffer[] = [];
		const take = (block: Buffer) => void blocks.push(block);
		await runTool('ffmpeg', stillArguments(file, atSeconds, lines, skipping), {
			timeoutSeconds: TIMEOUT_SECONDS,
			onOutput: take
		});
		const bytes = new Uint8Array(Buffer.concat(blocks));
		// Without a picture there is only a head.
		if (Buffer.from(bytes.buffer).includes('mdat')) return bytes;
	}
	throw new MediaError('unreadable', 'There is no picture at that time.');
}
