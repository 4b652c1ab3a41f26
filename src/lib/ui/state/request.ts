import type { Endpoint } from '../../contract/endpoints';
import type { ErrorAnswer, ErrorCode } from '../../contract/errors';

/** The server refused or could not be reached; the message is a sentence for the editor. */
export class RequestError extends Error {
	constructor(
		message: string,
		/** Nothing where the server did not answer in our terms. */
		readonly code?: ErrorCode
	) {
		super(message);
		this.name = 'RequestError';
	}
}

/** Asks the server. @param sent nothing where the endpoint takes nothing @throws RequestError */
export async function ask<Params, Sent, Read, Answer>(
	endpoint: Endpoint<Params, Sent, Read, Answer>,
	params: Params,
	sent: Sent
): Promise<Answer> {
	const { method } = endpoint;
	const body = method === 'POST' ? { headers: { 'content-type': 'application/json' }, body: JSON.stringify(sent) } : {};
	let response: Response;
	try {
		response = await fetch(endpoint.address(params), { method, ...body });
	} catch {
		throw new RequestError('The server does not answer. Is Open Choir still running?');
	}
	const answer = (await response.json().catch(() => ({}))) as Partial<ErrorAnswer>;
	if (!response.ok)
		throw new RequestError(answer.message ?? `The server refused with ${response.status}.`, answer.code);
	return answer as Answer;
}
