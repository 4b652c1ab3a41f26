import { API } from '$lib/contract/endpoints';
import { undo } from '$lib/server/edits/log';
import { answers } from '../../../answer';

export const POST = answers(API.undo, async ({ runtime, params: { id } }) => {
	const change = await undo(runtime.shoots, id);
	// Sound and pictures are made of what files are.
	if (change.rows.media_file) await runtime.queue.add(id, 'prepare', {});
	return change;
});
