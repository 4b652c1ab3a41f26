import { serveFile } from '$lib/server/media/serve-file';
import { getRuntime } from '$lib/server/runtime';
import { handOffFile } from '$lib/server/stages/hand-off/hand-offs';
import { refuse } from '../../answer';
import { Id } from '$lib/contract/fields';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params, request, url }) => {
	try {
		const { path, name, mediaType } = await handOffFile(getRuntime(), Id.parse(params.id));
		return await serveFile(path, request, mediaType, url.searchParams.has('download') ? { downloadName: name } : {});
	} catch (error) {
		return refuse(error);
	}
};
