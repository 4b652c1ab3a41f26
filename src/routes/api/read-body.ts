import { ShootError } from '$lib/server/shoots/shoot-error';

/** So much more is let pass without being kept, so that whoever sends it hears the answer; then the connection is ended. */
const DRAINED_TIMES = 16;

/**
 * A request's body, bounded while it arrives: what claims no length, or a wrong one, is bounded all the same.
 * @throws ShootError it is larger than that
 */
export async function readBody(request: Request, mostBytes: number, sentence: string): Promise<Uint8Array> {
	const blocks: Uint8Array[] = [];
	let size = 0;
	const reader = (request.body as ReadableStream<Uint8Array> | null)?.getReader();
	for (;;) {
		const value = (await reader?.read())?.value;
		if (!value) break;
		size += value.length;
		if (size <= mostBytes) blocks.push(value);
		else if (size > DRAINED_TIMES * mostBytes) {
			await reader!.cancel().catch(() => undefined);
			break;
		} else blocks.length = 0;
	}
	if (size > mostBytes) throw new ShootError('too-large', sentence);
	return Buffer.concat(blocks, size);
}
