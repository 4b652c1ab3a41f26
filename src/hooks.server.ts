import type { Handle, HandleServerError, ServerInit } from '@sveltejs/kit';
import { refusal } from '$lib/server/access/request-guard';
import { openRuntime } from '$lib/server/open-runtime';
import { getRuntime, setRuntime } from '$lib/server/runtime';
import { readSettings } from '$lib/server/settings';

export const init: ServerInit = async () => {
	const runtime = await openRuntime(readSettings(process.env));
	setRuntime(runtime);
	process.once(
		'sveltekit:shutdown',
		() => void runtime.close().finally(() => process.emit('open-choir:closed' as never))
	);
};

export const handle: Handle = async ({ event, resolve }) => {
	const { request } = event;
	const reason = refusal({
		method: request.method,
		host: request.headers.get('host') ?? undefined,
		origin: request.headers.get('origin') ?? undefined,
		fetchSite: request.headers.get('sec-fetch-site') ?? undefined
	});
	if (reason) return new Response(reason, { status: 403 });
	return resolve(event);
};

export const handleError: HandleServerError = ({ error, status, message }) => {
	if (status !== 404) getRuntime().log.error({ err: error }, 'request failed');
	return { message };
};
