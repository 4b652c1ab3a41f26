import { json } from '@sveltejs/kit';
import { ZodError } from 'zod';
import { AccessError } from '$lib/server/access/allowed-folders';
import { MediaError } from '$lib/server/media/media-error';
import { getRuntime } from '$lib/server/runtime';
import { ShootError } from '$lib/server/shoots/shoot-error';

/** Names for thousands of clips fit in. */
const MOST_BODY_BYTES = 2 * 1024 * 1024;

/** A request's JSON body. @throws ZodError, SyntaxError */
export async function bodyOf(request: Request): Promise<unknown> {
	const text = await request.text();
	if (text.length > MOST_BODY_BYTES) throw new SyntaxError('The request is too large.');
	return JSON.parse(text);
}

/** Runs a use case and answers with its result, or with a sentence and the status its error stands for. */
export async function answer(work: () => Promise<unknown>, status = 200): Promise<Response> {
	try {
		return json((await work()) ?? {}, { status });
	} catch (error) {
		return refuse(error);
	}
}

export function refuse(error: unknown): Response {
	const say = (status: number, message: string) => json({ message }, { status });
	if (error instanceof ZodError) return say(400, sentenceOf(error));
	if (error instanceof SyntaxError) return say(400, 'The request is not valid JSON.');
	if (error instanceof ShootError) return say(error.kind === 'not-found' ? 404 : 409, error.message);
	if (error instanceof AccessError) return say(error.kind === 'missing' ? 404 : 403, error.message);
	if (error instanceof MediaError) return say(422, error.message);
	getRuntime().log.error({ error }, 'request failed');
	return say(500, 'Something went wrong in the server. Its log says more.');
}

/** Our own messages are sentences; the parser's are not, and say less to an editor than where it hurts. */
function sentenceOf({ issues: [issue] }: ZodError): string {
	if (issue && /[.!]$/.test(issue.message)) return issue.message;
	return `The request makes no sense${issue && issue.path.length > 0 ? ` at “${issue.path.join('.')}”` : ''}.`;
}
