import { OriginalRequest } from '$lib/contract/media';
import { openOriginal } from '$lib/server/media/original-file';
import { serveOpened } from '$lib/server/media/serve-file';
import { getRuntime } from '$lib/server/runtime';
import { refuse } from '../../../api/answer';
import type { RequestHandler } from './$types';

/** A recording as it is, by ranges: browsers that can decode it show its pictures before any are made of it. */
export const GET: RequestHandler = async ({ params, url, request }) => {
	try {
		const { id, key } = OriginalRequest.parse({ ...Object.fromEntries(url.searchParams), ...params });
		const { path } = await getRuntime().mediaFiles.find(id, key);
		return await serveOpened(await openOriginal(path), request, 'application/octet-stream', {
			cacheControl: 'no-store'
		});
	} catch (error) {
		return refuse(error);
	}
};
