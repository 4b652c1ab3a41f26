import { API } from '$lib/contract/endpoints';
import { cleanUp, setLimit, storage } from '$lib/server/storage/storage';
import { answers } from '../answer';

/** What takes room on the disk. */
export const GET = answers(API.storage, ({ runtime }) => storage(runtime));

export const POST = answers(API.storageAction, async ({ runtime, input }) => {
	if (input.action === 'set-limit') await setLimit(runtime, input.limitBytes);
	else await cleanUp(runtime);
	return storage(runtime);
});
