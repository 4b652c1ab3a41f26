import { LRUCache } from 'lru-cache';
import pLimit from 'p-limit';
import { stripAddress } from '../../../contract/media';
import { type OriginalFile, OriginalPictures } from '../../playback/original-pictures';
import { fetchStill, type Still } from '../../playback/read-piece';
import { STRIP_LINES, type StripAnswer, type StripAsked } from './strip-messages';

/** Pictures for strips: of the recordings themselves where the browser can, else of the server. */

/** Recordings kept open: their indexes take megabytes. */
const MAX_OPEN = 8;
const opened = new LRUCache<string, OriginalPictures>({ max: MAX_OPEN, dispose: (keys) => keys.close() });
/** A browser keeps six connections to a server; the server makes strips when it has nothing else to do. */
const askedInTurn = pLimit(1);
/** Recordings that this browser cannot show. */
const unable = new Set<string>();

self.onmessage = async ({ data }: MessageEvent<StripAsked>) => {
	const still = await stillAt(data.file, data.seconds).catch(() => undefined);
	const picture = still && (await small(still.frame));
	const answer: StripAnswer = { name: data.name, ...(picture ? { picture } : {}) };
	self.postMessage(answer, { transfer: picture ? [picture] : [] });
};

async function stillAt(file: OriginalFile, seconds: number): Promise<Still> {
	const { fileId, identity, own } = file;
	if (own !== undefined && !unable.has(identity)) {
		let keys = opened.get(identity);
		if (!keys) opened.set(identity, (keys = new OriginalPictures(file)));
		const own = await keys.key(seconds).catch(() => undefined);
		if (own) return own;
		unable.add(identity);
		opened.delete(identity);
	}
	return askedInTurn(() => fetchStill(stripAddress({ fileId, key: identity, seconds })));
}

async function small(frame: VideoFrame): Promise<ImageBitmap> {
	try {
		const resizeWidth = Math.max(1, Math.round((STRIP_LINES * frame.displayWidth) / frame.displayHeight));
		return await createImageBitmap(frame, { resizeWidth, resizeHeight: STRIP_LINES, resizeQuality: 'medium' });
	} finally {
		frame.close();
	}
}
