import { StripRequest } from '$lib/contract/media';
import { answersMedia } from '../../answer';
import { pictureFile } from '../../picture-file';

/** A picture at or before a time for a strip of many, as MP4 of one picture, which tells its own time. */
export const GET = answersMedia(StripRequest, async ({ mediaFiles, stills }, { id, key, seconds }) => {
	const picture = await stills.besides(await pictureFile(mediaFiles, id, key), seconds);
	return new Response(picture, { headers: { 'content-type': 'video/mp4', 'cache-control': 'private, max-age=3600' } });
});
