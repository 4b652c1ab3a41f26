import { SoundRequest } from '$lib/contract/media';
import { ShootError } from '$lib/server/shoots/shoot-error';
import { answersMedia } from '../../answer';

/** Sound of a file to listen to: samples of some channels, interleaved, 16 bits or 32 of a deep sound. */
export const GET = answersMedia(SoundRequest, async ({ mediaFiles, listening }, { id, key, from, to, channels }) => {
	const file = await mediaFiles.find(id, key);
	const { audio } = file.facts;
	if (!audio || channels.some((channel) => channel >= audio.channels))
		throw new ShootError('no-sound', 'That file has no such channel.');
	const samples = await listening.read(file, from, to, channels);
	return new Response(samples.buffer as ArrayBuffer, {
		headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' }
	});
});
