/** The server refused or could not be reached; the message is a sentence for the editor. */
export class RequestError extends Error {
	constructor(
		message: string,
		readonly status: number
	) {
		super(message);
		this.name = 'RequestError';
	}
}

/** Asks the server, JSON both ways. @throws RequestError */
export async function request<Answer>(
	path: string,
	body?: unknown,
	method = body === undefined ? 'GET' : 'POST'
): Promise<Answer> {
	let response: Response;
	try {
		response = await fetch(
			path,
			body === undefined
				? { method }
				: { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }
		);
	} catch {
		throw new RequestError('The server does not answer. Is Open Choir still running?', 0);
	}
	const answer = (await response.json().catch(() => ({}))) as { message?: string };
	if (!response.ok)
		throw new RequestError(answer.message ?? `The server refused with ${response.status}.`, response.status);
	return answer as Answer;
}
