import { json, type RequestHandler } from '@sveltejs/kit';
import { ZodError } from 'zod';
import type { Endpoint } from '$lib/contract/endpoints';
import { type ErrorAnswer, type ErrorCode, ERRORS } from '$lib/contract/errors';
import { AccessError } from '$lib/server/access/allowed-folders';
import { MediaError } from '$lib/server/media/media-error';
import { getRuntime, type Runtime } from '$lib/server/runtime';
import { faultBehind } from '$lib/server/shoots/fault-behind';
import { ShootError } from '$lib/server/shoots/shoot-error';
import { readBody } from './read-body';

/** Names for thousands of clips fit in. */
const MAX_BODY_BYTES = 2 * 1024 * 1024;

/** What an endpoint is asked. */
export interface Asked<Params, Read> {
	readonly runtime: Runtime;
	readonly params: Params;
	readonly input: Read;
}

/** Answers an endpoint of the contract: reads what is asked, has it done, and says what cannot be done in a sentence. */
export function answers<Params, Sent, Read, Answer>(
	endpoint: Endpoint<Params, Sent, Read, Answer>,
	work: (asked: Asked<Params, Read>) => Promise<Answer> | Answer,
	status = 200
): RequestHandler {
	return answerWith(endpoint, async (asked) => json((await work(asked)) ?? {}, { status }));
}

function answerWith<Params, Sent, Read, Answer>(
	endpoint: Endpoint<Params, Sent, Read, Answer>,
	answer: (asked: Asked<Params, Read>) => Promise<Response>
): RequestHandler {
	return async ({ params, request, url }) => {
		try {
			const asked = endpoint.params.parse({ ...Object.fromEntries(url.searchParams), ...params });
			const input = endpoint.input.parse(endpoint.method === 'POST' ? await bodyOf(request) : undefined);
			return await answer({ runtime: getRuntime(), params: asked, input });
		} catch (error) {
			return refuse(error);
		}
	};
}

/** As `answers`, for what is JSON already. */
export function answersWritten<Params, Sent, Read, Answer>(
	endpoint: Endpoint<Params, Sent, Read, Answer>,
	write: (asked: Asked<Params, Read>) => Promise<Uint8Array<ArrayBuffer>>
): RequestHandler {
	return answerWith(endpoint, async (asked) => {
		const headers = { 'content-type': 'application/json' };
		return new Response(await write(asked), { headers });
	});
}

/** A request's JSON body. @throws ShootError it is none, it is too large, or it holds text that is none */
async function bodyOf(request: Request): Promise<unknown> {
	const bytes = await readBody(request, MAX_BODY_BYTES, 'This request is too large.');
	if (bytes.length === 0) return undefined;
	try {
		return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes), onlyText);
	} catch (error) {
		if (error instanceof ShootError) throw error;
		throw new ShootError('not-json', 'This request is not valid: it is no JSON.', { cause: error });
	}
}

/** NUL and halves of surrogate pairs are no text: no database takes them, and no file is called so. */
function onlyText(key: string, value: unknown): unknown {
	for (const text of [key, value])
		if (typeof text === 'string' && (text.includes('\0') || !text.isWellFormed()))
			throw new ShootError('not-valid', 'This request is not valid: it holds characters that are no text.');
	return value;
}

/** An error as the page gets it: a code, a sentence, and the status that the code stands for. */
export function refuse(error: unknown): Response {
	const answer = errorAnswer(error);
	return json(answer, { status: ERRORS[answer.code] });
}

function errorAnswer(error: unknown): ErrorAnswer {
	const say = (code: ErrorCode, message: string): ErrorAnswer => ({ code, message });
	if (error instanceof ZodError) return say('not-valid', sentenceOf(error));
	if (error instanceof ShootError) return say(error.code, error.message);
	if (error instanceof AccessError)
		return say(error.kind === 'missing' ? 'path-missing' : 'path-outside', error.message);
	if (error instanceof MediaError) return say(error.kind, error.message);
	getRuntime().log.error({ err: error }, 'request failed');
	const fault = faultBehind(error);
	if (fault) return say(fault.code, fault.message);
	return say('fault', 'Something went wrong in the server. Its log says more.');
}

/** Our own messages are sentences; the parser's are not, and say less to an editor than where it hurts. */
function sentenceOf({ issues: [issue] }: ZodError): string {
	if (issue && /[.!]$/.test(issue.message)) return issue.message;
	const where = issue && issue.path.length > 0 ? `: look at “${issue.path.join('.')}”` : '';
	return `This request is not valid${where}.`;
}
