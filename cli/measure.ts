import { measureFolder, type SourcesFile } from '../src/lib/server/stages/master/measure-folder';
import { progressLine, readFolderArguments, writeResult } from './folder-command';

const USAGE = `Usage: open-choir measure FOLDER [--json OUT.json] [--by best|sound|timecode] [--reference DEVICE] [--quiet]

Lines up all recordings below FOLDER as align does, then measures every channel of every line-up, finds who speaks when,
and ranks the sources with reasons. Without --json the result goes to standard output.

  --by, --reference   as align takes them
  --quiet             nothing to standard error but faults

Exit codes: 0 it ran; 1 it could not run; 2 the arguments are wrong.
`;

/** The command `measure`. @returns the exit code */
export async function measure(args: readonly string[]): Promise<number> {
	const read = await readFolderArguments(args, USAGE);
	if (typeof read === 'number') return read;
	const { folder, by, reference, json, isQuiet } = read;
	const result = await measureFolder(folder, {
		by,
		...(reference === undefined ? {} : { reference }),
		...(isQuiet ? {} : { onProgress: progressLine() })
	});
	await writeResult(result, json);
	if (!isQuiet && json !== undefined) process.stderr.write(summary(result));
	return 0;
}

/** What came out, for people: the best set, then every source. */
function summary({ groups }: SourcesFile): string {
	return groups
		.flatMap(({ id, sets, sources }) => [
			`Line-up ${id}`,
			...sets.map(
				(set) =>
					`  ${set.channels.map(({ device, channel }) => `${device} ${channel}`).join(' + ')}: ${set.points} points. ${set.sentence}`
			),
			...sources.map(
				({ device, channel, name, points, sentence }) =>
					`  ${device} ${channel}${name ? ` (${name})` : ''}: ${points} points. ${sentence}`
			)
		])
		.join('\n')
		.concat('\n');
}
