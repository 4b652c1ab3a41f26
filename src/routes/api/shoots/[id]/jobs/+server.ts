import { API } from '$lib/contract/endpoints';
import { revisionOf } from '$lib/server/shoots/view';
import { answers } from '../../../answer';

export const GET = answers(API.jobs, ({ runtime, params: { id } }) => runtime.queue.list(id));

export const POST = answers(
	API.newJob,
	async ({ runtime, params: { id }, input: { kind, ...input } }) => {
		await revisionOf(runtime.database, id);
		return { id: await runtime.queue.add(id, kind, input) };
	},
	202
);
