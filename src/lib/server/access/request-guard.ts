/** Names under which the server may be asked: a page elsewhere that points its name at this machine is refused. */
const LOOPBACK_NAMES = new Set(['127.0.0.1', 'localhost', '[::1]']);

export interface GuardedRequest {
	readonly method: string;
	readonly host: string | undefined;
	readonly origin: string | undefined;
	readonly fetchSite: string | undefined;
}

/** Why a request is refused; nothing when it may pass. */
export function refusal(request: GuardedRequest): string | undefined {
	const name = hostName(request.host);
	if (name === undefined || !LOOPBACK_NAMES.has(name)) return 'This server answers on the local machine only.';
	if (request.origin !== undefined && request.origin !== `http://${request.host}`)
		return 'Requests from other pages are refused.';
	if (
		request.method !== 'GET' &&
		request.method !== 'HEAD' &&
		(request.fetchSite === 'cross-site' || request.fetchSite === 'same-site')
	)
		return 'Requests from other pages are refused.';
	return undefined;
}

function hostName(host: string | undefined): string | undefined {
	const match = /^(\[[0-9a-f:]+\]|[^:]+)(?::\d{1,5})?$/i.exec(host ?? '');
	return match?.[1]?.toLowerCase();
}
