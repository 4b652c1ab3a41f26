import { getRuntime } from '$lib/server/runtime';
import { answer } from '../../../answer';
import { Identity } from '../../../identities';
import type { RequestHandler } from './$types';

/** Uploads that have begun and are not whole. */
export const GET: RequestHandler = ({ params }) =>
	answer(async () => getRuntime().uploads.unfinished(Identity.parse(params.id)));

export const DELETE: RequestHandler = ({ params }) =>
	answer(async () => getRuntime().uploads.dropUnfinished(Identity.parse(params.id)));
