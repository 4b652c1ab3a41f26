import { API } from '$lib/contract/endpoints';
import { redo } from '$lib/server/edits/log';
import { answers } from '../../../answer';

export const POST = answers(API.redo, async ({ runtime, params: { id } }) => {
	const change = await redo(runtime.shoots, id);
	// Sound and pictures are made of what files are.
	if (change.rows.media_file) await runtime.queue.add(id, 'prepare', {});
	return change;
});
