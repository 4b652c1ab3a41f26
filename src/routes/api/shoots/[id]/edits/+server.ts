import { getRuntime } from '$lib/server/runtime';
import { afterChange } from '$lib/server/shoots/after-change';
import { applyEdit, listEdits } from '$lib/server/edits/log';
import { EditCommand } from '$lib/server/edits/registry';
import { answer, bodyOf } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = ({ params }) =>
	answer(async () => listEdits(getRuntime().database, Identity.parse(params.id)));

export const POST: RequestHandler = ({ params, request }) =>
	answer(async () => {
		const runtime = getRuntime();
		const shootId = Identity.parse(params.id);
		return afterChange(
			runtime,
			shootId,
			await applyEdit(runtime.database, shootId, EditCommand.parse(await bodyOf(request)))
		);
	});
