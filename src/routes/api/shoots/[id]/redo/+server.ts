import { getRuntime } from '$lib/server/runtime';
import { redo } from '$lib/server/shoots/edit-log';
import { loadShoot } from '$lib/server/shoots/load-shoot';
import { answer } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = ({ params }) =>
	answer(async () => {
		const { database, queue } = getRuntime();
		const shootId = Identity.parse(params.id);
		await redo(database, shootId);
		queue.events.emit('event', { type: 'shoot', shootId });
		return loadShoot(database, shootId);
	});
