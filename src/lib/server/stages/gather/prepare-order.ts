/** One piece of preparing: a file's sound, or its small picture. */
export interface PrepareTask<File extends { readonly id: string }> {
	readonly file: File;
	readonly kind: 'sound' | 'picture';
}

/**
 * What is to be prepared next, taken from what is left: first what an editor looks at, sound before picture, for
 * waveforms help before pictures do. A picture keeps all cores busy: one at a time.
 * @returns nothing when nothing may begin now
 */
export function takeNext<File extends { readonly id: string }>(
	left: PrepareTask<File>[],
	watched: ReadonlySet<string>,
	isPictureUnderWay: boolean
): PrepareTask<File> | undefined {
	const rank = ({ file, kind }: PrepareTask<File>) => (watched.has(file.id) ? 0 : 2) + (kind === 'sound' ? 0 : 1);
	let best = -1;
	for (const [index, task] of left.entries()) {
		if (task.kind === 'picture' && isPictureUnderWay) continue;
		if (best < 0 || rank(task) < rank(left[best]!)) best = index;
	}
	return best < 0 ? undefined : left.splice(best, 1)[0];
}
