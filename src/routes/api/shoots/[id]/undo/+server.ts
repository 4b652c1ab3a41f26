import { getRuntime } from '$lib/server/runtime';
import { afterChange } from '$lib/server/shoots/after-change';
import { undo } from '$lib/server/edits/log';
import { answer } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = ({ params }) =>
	answer(async () => {
		const runtime = getRuntime();
		const shootId = Identity.parse(params.id);
		return afterChange(runtime, shootId, await undo(runtime.database, shootId));
	});
