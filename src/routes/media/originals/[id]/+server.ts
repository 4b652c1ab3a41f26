import { OriginalRequest } from '$lib/contract/media';
import { openOriginal } from '$lib/server/media/original-file';
import { serveOpened } from '$lib/server/media/serve-file';
import { answersMedia } from '../../answer';

/** A recording as it is, by ranges: browsers that can decode it show its pictures before any are made of it. */
export const GET = answersMedia(OriginalRequest, async ({ mediaFiles }, { id, key }, request) => {
	const { path } = await mediaFiles.find(id, key);
	return serveOpened(await openOriginal(path), request, 'application/octet-stream', { cacheControl: 'no-store' });
});
