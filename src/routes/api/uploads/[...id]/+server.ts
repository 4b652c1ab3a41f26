import { getRuntime } from '$lib/server/runtime';
import type { RequestHandler } from './$types';

/** Uploads by the tus protocol: begin, ask how far, go on, give up. */
const handle: RequestHandler = ({ request }) => getRuntime().uploads.handle(request);

export { handle as DELETE, handle as HEAD, handle as OPTIONS, handle as PATCH, handle as POST };
