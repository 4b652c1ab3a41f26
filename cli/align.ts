import { rename, stat, writeFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { alignFolder, type AlignmentFile } from '../src/lib/server/stages/line-up/align-folder';
import { WAYS } from '../src/lib/contract/jobs';
import type { AlignProgress } from '../src/lib/server/stages/line-up/align-recordings';

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
	let parsed;
	try {
		parsed = parseArgs({
			args: [...args],
			allowPositionals: true,
			options: {
				json: { type: 'string' },
				by: { type: 'string' },
				reference: { type: 'string' },
				explain: { type: 'boolean' },
				quiet: { type: 'boolean' },
				help: { type: 'boolean' }
			}
		});
	} catch (error) {
		process.stderr.write(`${(error as Error).message}\n${USAGE}`);
		return 2;
	}
	const { values, positionals } = parsed;
	if (values.help) {
		process.stdout.write(USAGE);
		return 0;
	}
	if (positionals.length !== 1) {
		process.stderr.write(USAGE);
		return 2;
	}
	const by = WAYS.find((way) => way === (values.by ?? 'best'));
	if (!by) {
		process.stderr.write(`--by takes ${WAYS.join(', ')}, not ${values.by}.\n${USAGE}`);
		return 2;
	}
	const folder = resolve(positionals[0]!);
	if (
		!(await stat(folder).then(
			(one) => one.isDirectory(),
			() => false
		))
	) {
		process.stderr.write(`${folder} is not a folder that can be read.\n`);
		return 1;
	}
	const result = await alignFolder(folder, {
		by,
		explain: values.explain ?? false,
		...(values.reference === undefined ? {} : { reference: values.reference }),
		...(values.quiet ? {} : { onProgress: progressLine() })
	});
	const text = `${JSON.stringify(result, null, '\t')}\n`;
	if (values.json === undefined) {
		process.stdout.write(text);
		if (values.explain && !values.quiet) process.stderr.write(explanation(result));
		return 0;
	}
	const target = resolve(values.json);
	await writeFile(`${target}.part`, text);
	await rename(`${target}.part`, target);
	if (!values.quiet) process.stderr.write(values.explain ? explanation(result) : summary(result));
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

/** A line a step of five percent: short enough for a log, often enough for a person. */
function progressLine(): (progress: AlignProgress) => void {
	let last = '';
	return ({ share, what }) => {
		const line = `Lining up, ${Math.floor(share * 20) * 5}%`;
		if (line === last) return;
		last = line;
		process.stderr.write(`${line} (${what})\n`);
	};
}
