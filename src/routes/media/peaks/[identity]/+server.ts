import { PeaksRequest } from '$lib/contract/media';
import { serveFile } from '$lib/server/media/serve-file';
import { answersMedia } from '../../answer';

/** The waveform of a file. */
export const GET = answersMedia(PeaksRequest, ({ cache }, { identity }, request) =>
	serveFile(cache.path(identity, 'peaks.s16'), request, 'application/octet-stream')
);
