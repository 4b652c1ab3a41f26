import { digestOfOriginal } from '../../media/file-digest';
import type { MediaFacts } from '../../../core/gather/media-facts';
import { findChannelFiles } from '../../../core/gather/channel-files';
import { comparePaths } from '../../../core/gather/compare-paths';
import { parseFileName } from '../../../core/gather/file-name';
import type { Runtime } from '../../runtime';

interface ReadFile {
	readonly id: string;
	readonly path: string;
	readonly relative_path: string;
	readonly digest: string;
	readonly facts: MediaFacts;
	readonly in_clip: boolean;
}

/**
 * Leaves out files that are copies of others, byte by byte; the one that is in a clip, or comes first, is kept. Channels
 * of one take may be equal, where nothing was plugged in.
 */
export async function leaveOutCopies({ database }: Runtime, shootId: string): Promise<void> {
	const files = await database.query<ReadFile>(
		`select id, path, relative_path, digest, facts, exists (select from clip_part where file_id = media_file.id) or channel_of is not null as in_clip
		 from media_file where shoot_id = $1 and state = 'probed' and digest is not null order by relative_path`,
		[shootId]
	);
	const ofTakes = new Set(
		findChannelFiles(files.map((file) => ({ ...file, path: file.relative_path }))).flatMap((take) =>
			take.files.map((file) => file.id)
		)
	);
	for (const alike of groupsOf(files.filter((file) => !ofTakes.has(file.id)))) {
		const mark = (file: ReadFile) => parseFileName(file.relative_path).copy;
		const [kept, ...others] = [...alike].sort(
			(a, b) =>
				Number(b.in_clip) - Number(a.in_clip) || mark(a) - mark(b) || comparePaths(a.relative_path, b.relative_path)
		);
		const whole = await wholeDigest(kept!);
		for (const other of others) {
			if (other.in_clip || whole === undefined || (await wholeDigest(other)) !== whole) continue;
			await database.query(`update media_file set state = 'bad', reason = $2 where id = $1`, [
				other.id,
				`It is a copy of ${kept!.relative_path}, which is used.`
			]);
		}
	}
}

/** Nothing where it went away since it was read: it is told when it is next looked for. */
function wholeDigest({ path }: ReadFile): Promise<string | undefined> {
	return digestOfOriginal(path).catch(() => undefined);
}

function groupsOf(files: readonly ReadFile[]): readonly (readonly ReadFile[])[] {
	const groups = new Map<string, ReadFile[]>();
	for (const file of files) groups.set(file.digest, [...(groups.get(file.digest) ?? []), file]);
	return [...groups.values()].filter((group) => group.length > 1 && group.some((file) => !file.in_clip));
}
