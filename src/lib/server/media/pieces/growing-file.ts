import { setTimeout as delay } from 'node:timers/promises';
import { type FileHandle, open } from 'node:fs/promises';

/** What is being written is looked at again for more after so long. */
const LOOK_AGAIN_MS = 40;
const READ_BYTES = 2 ** 18;

/** Opens a file that is about to be written; it may be whole, and in its place, by then. */
export async function openGrowing(growing: string, whole: string, done: Promise<void>): Promise<FileHandle> {
	let isDone = false;
	void done.catch(() => undefined).finally(() => (isDone = true));
	for (;;) {
		const file = (await open(growing, 'r').catch(() => undefined)) ?? (await open(whole, 'r').catch(() => undefined));
		if (file) return file;
		if (isDone) await done;
		await delay(LOOK_AGAIN_MS);
	}
}

/**
 * A file as it grows.
 * @param done when nothing more comes; nothing where it is whole @param onEnd nobody reads it any more, to its end or not
 */
export function streamFile(
	file: FileHandle,
	done: Promise<void> | undefined,
	onEnd: () => void = () => undefined
): ReadableStream<Uint8Array> {
	let at = 0;
	let isDone = done === undefined;
	let fault: unknown;
	void done?.catch((error: unknown) => (fault = error)).finally(() => (isDone = true));
	return new ReadableStream<Uint8Array>({
		async pull(controller) {
			for (;;) {
				// Asked before reading: what was written until then is read.
				const wasDone = isDone;
				const block = new Uint8Array(READ_BYTES);
				const { bytesRead } = await file.read(block, 0, READ_BYTES, at);
				if (bytesRead > 0) {
					at += bytesRead;
					controller.enqueue(block.subarray(0, bytesRead));
					return;
				}
				if (!wasDone) {
					await delay(LOOK_AGAIN_MS);
					continue;
				}
				await file.close();
				onEnd();
				if (fault) controller.error(fault);
				else controller.close();
				return;
			}
		},
		cancel() {
			onEnd();
			return file.close();
		}
	});
}
