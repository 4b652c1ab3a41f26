import { API } from '$lib/contract/endpoints';
import { getRuntime } from '$lib/server/runtime';
import { reportAsCsv } from '$lib/server/stages/prove/line-up-report';
import { refuse } from '../../../answer';
import type { RequestHandler } from './$types';

/** The proof of a line-up as a table. */
export const GET: RequestHandler = async ({ params, url }) => {
	try {
		const { id, lineUp } = API.report.params.parse({ ...Object.fromEntries(url.searchParams), ...params });
		return new Response(await reportAsCsv(getRuntime(), id, lineUp), {
			headers: {
				'content-type': 'text/csv; charset=utf-8',
				'content-disposition': 'attachment; filename="line-up-report.csv"'
			}
		});
	} catch (error) {
		return refuse(error);
	}
};
