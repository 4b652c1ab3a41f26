import { z } from 'zod';
import { getRuntime } from '$lib/server/runtime';
import { lineUpReport, reportAsCsv } from '$lib/server/stages/prove/line-up-report';
import { answer, refuse } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

const Wish = z.object({ lineUp: Identity.optional(), as: z.enum(['json', 'csv']).default('json') });

/** The proof of a line-up, as JSON or as a table. */
export const GET: RequestHandler = async ({ params, url }) => {
	try {
		const { database } = getRuntime();
		const shootId = Identity.parse(params.id);
		const { lineUp, as } = Wish.parse(Object.fromEntries(url.searchParams));
		if (as === 'json') return await answer(() => lineUpReport(database, shootId, lineUp));
		return new Response(await reportAsCsv(database, shootId, lineUp), {
			headers: {
				'content-type': 'text/csv; charset=utf-8',
				'content-disposition': 'attachment; filename="line-up-report.csv"'
			}
		});
	} catch (error) {
		return refuse(error);
	}
};
