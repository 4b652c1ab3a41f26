import { PeaksRequest } from '$lib/contract/media';
import { serveFile } from '$lib/server/media/serve-file';
import { getRuntime } from '$lib/server/runtime';
import { refuse } from '../../../api/answer';
import type { RequestHandler } from './$types';

/** The waveform of a file. */
export const GET: RequestHandler = async ({ params, request }) => {
	try {
		const { identity } = PeaksRequest.parse(params);
		return await serveFile(getRuntime().cache.path(identity, 'peaks.s16'), request, 'application/octet-stream');
	} catch (error) {
		return refuse(error);
	}
};
