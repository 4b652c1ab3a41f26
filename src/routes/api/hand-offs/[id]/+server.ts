import { serveFile } from '$lib/server/media/serve-file';
import { getRuntime } from '$lib/server/runtime';
import { handOffFile } from '$lib/server/stages/hand-off/hand-offs';
import { refuse } from '../../answer';
import { Identity } from '../../identities';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params, request, url }) => {
	try {
		const { path, name, kind } = await handOffFile(getRuntime(), Identity.parse(params.id));
		const type = kind === 'movie' ? 'video/mp4' : 'application/json';
		return await serveFile(path, request, type, url.searchParams.has('download') ? { downloadName: name } : {});
	} catch (error) {
		return refuse(error);
	}
};
