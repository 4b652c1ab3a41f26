/**
 * Work that is asked for at any time but never runs twice at once: whoever asks while it runs waits until it has run once
 * more, from its beginning.
 * @param work does not throw
 */
export function onceMoreAfter(work: () => Promise<void>): () => Promise<void> {
	let running: Promise<void> | undefined;
	let wanted = false;
	async function run(): Promise<void> {
		do {
			wanted = false;
			await work();
		} while (wanted);
		running = undefined;
	}
	return () => {
		wanted = true;
		return (running ??= run());
	};
}
