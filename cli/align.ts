import { rename, stat, writeFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { alignFolder } from '../src/lib/server/shoots/align-folder';
import type { AlignProgress } from '../src/lib/server/shoots/align-recordings';

const USAGE = `Usage: open-choir align FOLDER [--json OUT.json] [--reference DEVICE] [--quiet]

Lines up all recordings below FOLDER. Each folder in it is a device. Without --json the result goes to standard output.
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
				reference: { type: 'string' },
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
		...(values.reference === undefined ? {} : { reference: values.reference }),
		...(values.quiet ? {} : { onProgress: progressLine() })
	});
	const text = `${JSON.stringify(result, null, '\t')}\n`;
	if (values.json === undefined) {
		process.stdout.write(text);
		return 0;
	}
	const target = resolve(values.json);
	await writeFile(`${target}.part`, text);
	await rename(`${target}.part`, target);
	if (!values.quiet) {
		const placed = result.groups.reduce((sum, lineUp) => sum + lineUp.clips.length, 0);
		process.stderr.write(
			`${placed} placed in ${result.groups.length} line-up${result.groups.length === 1 ? '' : 's'}, ${result.unplaced.length} not placed.\n`
		);
	}
	return 0;
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
