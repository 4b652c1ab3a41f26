import { getRuntime } from '$lib/server/runtime';
import { answer } from '../answer';
import type { RequestHandler } from './$types';

/** Folders below `path`, or the allowed ones themselves. */
export const GET: RequestHandler = ({ url }) =>
	answer(async () => {
		const { folders } = getRuntime();
		const path = url.searchParams.get('path');
		return { path, folders: path ? await folders.foldersIn(path) : folders.roots };
	});
