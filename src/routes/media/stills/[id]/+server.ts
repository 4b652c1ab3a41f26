import { StillRequest } from '$lib/contract/media';
import { getRuntime } from '$lib/server/runtime';
import { refuse } from '../../../api/answer';
import { pictureFile } from '../../picture-file';
import type { RequestHandler } from './$types';

/** The key picture at or before a time, small, as MP4 of one picture, which tells its own time. */
export const GET: RequestHandler = async ({ params, url }) => {
	try {
		const asked = StillRequest.parse({ ...Object.fromEntries(url.searchParams), ...params });
		const still = await getRuntime().stills.still(await pictureFile(asked), asked.seconds, asked.lines);
		return new Response(still, { headers: { 'content-type': 'video/mp4', 'cache-control': 'private, max-age=3600' } });
	} catch (error) {
		return refuse(error);
	}
};
