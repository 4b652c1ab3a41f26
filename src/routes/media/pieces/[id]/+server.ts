import { json } from '@sveltejs/kit';
import { type PieceAwaited, PieceRequest } from '$lib/contract/media';
import { answersMedia } from '../../answer';
import { pictureFile } from '../../picture-file';

/** A piece of a small picture, as MP4; while it is made, if somebody waits for it. */
export const GET = answersMedia(PieceRequest, async ({ mediaFiles, pieces }, { id, key, index, lines, rank }) => {
	const file = await pictureFile(mediaFiles, id, key);
	if (rank !== undefined && !(await pieces.has(file, index))) {
		const awaited: PieceAwaited = { secondsLeft: pieces.ask(file, index, rank) };
		return json(awaited, { status: 202 });
	}
	const headers = { 'content-type': 'video/mp4', 'cache-control': 'no-store' };
	return new Response(await pieces.stream(file, index, lines), { headers });
});
