import { alignFolder, type AlignmentFile } from '../src/lib/server/stages/line-up/align-folder';
import { progressLine, readFolderArguments, writeResult } from './folder-command';

const USAGE = `Usage: open-choir align FOLDER [--json OUT.json] [--by best|sound|timecode] [--reference DEVICE] [--explain] [--quiet]

Lines up all recordings below FOLDER. Each folder in it is a device. Without --json the result goes to standard output.

  --by WAY            best (default): by sound, timecode proposes and fills in where it is proved; sound; timecode alone
  --reference DEVICE  the device whose clock counts as true; otherwise the best recorder
  --explain           what speaks for each place goes into the result, and in words to standard error
  --quiet             nothing to standard error but faults

Exit codes: 0 it ran, even with strays; 1 it could not run; 2 the arguments are wrong.
`;

/** The command `align`. @returns the exit code */
export async function align(args: readonly string[]): Promise<number> {
	const read = await readFolderArguments(args, USAGE, ['explain']);
	if (typeof read === 'number') return read;
	const { folder, by, reference, json, isQuiet, flags } = read;
	const result = await alignFolder(folder, {
		by,
		explain: flags.explain,
		...(reference === undefined ? {} : { reference }),
		...(isQuiet ? {} : { onProgress: progressLine() })
	});
	await writeResult(result, json);
	if (isQuiet) return 0;
	if (flags.explain) process.stderr.write(explanation(result));
	else if (json !== undefined) process.stderr.write(summary(result));
	return 0;
}

function summary({ groups, unplaced, remarks = [] }: AlignmentFile): string {
	const placed = groups.reduce((sum, lineUp) => sum + lineUp.clips.length, 0);
	const count = `${placed} placed in ${groups.length} line-up${groups.length === 1 ? '' : 's'}, ${unplaced.length} not placed.`;
	return [count, ...remarks, ''].join('\n');
}

/** A line a piece of evidence, for people. */
function explanation(result: AlignmentFile): string {
	const lines = result.groups.flatMap(({ id, reference, clips }) => [
		`Line-up ${id}, by the clock of ${reference}`,
		...clips.flatMap((clip) => [
			`  ${clip.path}: at ${clip.start.toFixed(4)} s, ${clip.ratePpm.toFixed(2)} ppm, by ${clip.method}, confidence ${clip.confidence}`,
			...(clip.evidence ?? []).map(
				(one) =>
					`    with ${one.with}: lag ${one.lagSeconds.toFixed(4)} s, ${one.agreeing} of ${one.windows} windows agree within ${(one.residualSeconds * 1000).toFixed(2)} ms over ${one.overlapSeconds.toFixed(0)} s, strength ${one.strength}`
			)
		])
	]);
	const strays = result.unplaced.map(
		({ path, reason, detail }) => `  ${path}: ${reason}${detail ? `. ${detail}` : ''}`
	);
	return [...lines, ...(strays.length > 0 ? ['Not placed', ...strays] : []), summary(result)].join('\n');
}
