import { getRuntime } from '$lib/server/runtime';
import { applyEdit, listEdits } from '$lib/server/shoots/edit-log';
import { EditCommand } from '$lib/server/shoots/edits';
import { loadShoot } from '$lib/server/shoots/load-shoot';
import { answer, bodyOf } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = ({ params }) =>
	answer(async () => listEdits(getRuntime().database, Identity.parse(params.id)));

export const POST: RequestHandler = ({ params, request }) =>
	answer(async () => {
		const { database, queue } = getRuntime();
		const shootId = Identity.parse(params.id);
		await applyEdit(database, shootId, EditCommand.parse(await bodyOf(request)));
		queue.events.emit('event', { type: 'shoot', shootId });
		return loadShoot(database, shootId);
	});
