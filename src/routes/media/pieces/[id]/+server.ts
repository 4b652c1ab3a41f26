import { json } from '@sveltejs/kit';
import { type PieceAwaited, PieceRequest } from '$lib/contract/media';
import { getRuntime } from '$lib/server/runtime';
import { refuse } from '../../../api/answer';
import { pictureFile } from '../../picture-file';
import type { RequestHandler } from './$types';

/** A piece of a small picture, as MP4; while it is made, if somebody waits for it. */
export const GET: RequestHandler = async ({ params, url }) => {
	try {
		const asked = PieceRequest.parse({ ...Object.fromEntries(url.searchParams), ...params });
		const file = await pictureFile(asked);
		const { pieces } = getRuntime();
		if (asked.rank !== undefined && !(await pieces.has(file, asked.index))) {
			const awaited: PieceAwaited = { secondsLeft: pieces.ask(file, asked.index, asked.rank) };
			return json(awaited, { status: 202 });
		}
		const headers = { 'content-type': 'video/mp4', 'cache-control': 'no-store' };
		return new Response(await pieces.stream(file, asked.index, asked.lines), { headers });
	} catch (error) {
		return refuse(error);
	}
};
