import { StillRequest } from '$lib/contract/media';
import { answersMedia } from '../../answer';
import { pictureFile } from '../../picture-file';

/** The key picture at or before a time, small, as MP4 of one picture, which tells its own time. */
export const GET = answersMedia(StillRequest, async ({ mediaFiles, stills }, { id, key, seconds, lines }) => {
	const still = await stills.still(await pictureFile(mediaFiles, id, key), seconds, lines);
	return new Response(still, { headers: { 'content-type': 'video/mp4', 'cache-control': 'private, max-age=3600' } });
});
