import { getRuntime } from '$lib/server/runtime';
import { archiveShoot } from '$lib/server/shoots/archive';
import { refuse } from '../../../answer';
import { Id } from '$lib/contract/fields';
import type { RequestHandler } from './$types';

/** All that is decided about a shoot, as one file to keep or to take to another machine. */
export const GET: RequestHandler = async ({ params }) => {
	try {
		const bytes = await archiveShoot(getRuntime().database, Id.parse(params.id));
		return new Response(new Uint8Array(bytes), {
			headers: {
				'content-type': 'application/gzip',
				'content-disposition': 'attachment; filename="shoot.open-choir.gz"',
				'cache-control': 'no-store'
			}
		});
	} catch (error) {
		return refuse(error);
	}
};
