import { API } from '$lib/contract/endpoints';
import { applyEdit, COMMAND_ENTRIES } from '$lib/server/edits/apply';
import { listEdits } from '$lib/server/edits/log';
import { answers } from '../../../answer';

export const GET = answers(API.edits, ({ runtime, params: { id } }) => listEdits(runtime.database, id));

export const POST = answers(API.edit, async ({ runtime, params: { id }, input }) => {
	const change = await applyEdit(runtime.shoots, id, input);
	if (COMMAND_ENTRIES[input.kind].changesFiles) await runtime.queue.add(id, 'prepare', {});
	return change;
});
