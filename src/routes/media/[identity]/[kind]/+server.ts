import { z } from 'zod';
import { serveFile } from '$lib/server/media/serve-file';
import { getRuntime } from '$lib/server/runtime';
import { refuse } from '../../../api/answer';
import type { RequestHandler } from './$types';

const Wanted = z.object({
	identity: z.string().regex(/^[0-9a-f]{32}$/, 'There is no such file.'),
	kind: z.enum(['peaks', 'proxy', 'growing'])
});
const FILES = {
	peaks: ['peaks.s16', 'application/octet-stream'],
	proxy: ['proxy.mp4', 'video/mp4'],
	/** A small picture that is still being made. */
	growing: ['growing.mp4', 'video/mp4']
} as const;

/** What was made of a file for the page: its peaks, its small picture. */
export const GET: RequestHandler = async ({ params, request }) => {
	try {
		const { identity, kind } = Wanted.parse(params);
		const [name, type] = FILES[kind];
		return await serveFile(getRuntime().cache.path(identity, name), request, type, {
			isWhole: kind !== 'growing'
		});
	} catch (error) {
		return refuse(error);
	}
};
