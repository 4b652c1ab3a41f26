import { SoundRequest } from '$lib/contract/media';
import { getRuntime } from '$lib/server/runtime';
import { ShootError } from '$lib/server/shoots/shoot-error';
import { refuse } from '../../../api/answer';
import type { RequestHandler } from './$types';

/** Sound of a file to listen to: samples of some channels, interleaved, 16 bits or 32 of a deep sound. */
export const GET: RequestHandler = async ({ params, url }) => {
	try {
		const { id, key, from, to, channels } = SoundRequest.parse({ ...Object.fromEntries(url.searchParams), ...params });
		const { mediaFiles, listening } = getRuntime();
		const file = await mediaFiles.find(id, key);
		const { audio } = file.facts;
		if (!audio || channels.some((channel) => channel >= audio.channels))
			throw new ShootError('no-sound', 'That file has no such channel.');
		const samples = await listening.read(file, from, to, channels).catch((error: unknown) => {
			// It may have been found again elsewhere.
			mediaFiles.forget(id, key);
			throw error;
		});
		return new Response(samples.buffer as ArrayBuffer, {
			headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' }
		});
	} catch (error) {
		return refuse(error);
	}
};
