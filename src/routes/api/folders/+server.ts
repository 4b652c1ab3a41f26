import { API } from '$lib/contract/endpoints';
import { answers } from '../answer';

/** Folders below `path`, or the allowed ones themselves. */
export const GET = answers(API.folders, async ({ runtime: { folders }, params: { path } }) => ({
	path: path ?? null,
	folders: path ? await folders.foldersIn(path) : await folders.offered()
}));
