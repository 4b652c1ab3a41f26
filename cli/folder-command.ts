import { rename, stat, writeFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { WAYS, type Way } from '../src/lib/contract/jobs';
import type { AlignProgress } from '../src/lib/server/stages/line-up/align-recordings';

/** What all commands on a folder take. */
const FOLDER_OPTIONS = {
	json: { type: 'string' },
	by: { type: 'string' },
	reference: { type: 'string' },
	quiet: { type: 'boolean' },
	help: { type: 'boolean' }
} as const;

export interface FolderArguments<Flag extends string> {
	readonly folder: string;
	readonly by: Way;
	readonly reference?: string;
	readonly json?: string;
	readonly isQuiet: boolean;
	/** Whether each further flag was given. */
	readonly flags: Readonly<Record<Flag, boolean>>;
}

/**
 * Reads the arguments of a command on a folder.
 * @param flags it takes beside those all take
 * @returns the exit code where there is nothing to do: 0 after help, 1 for a folder that cannot be read, 2 for wrong arguments
 */
export async function readFolderArguments<Flag extends string>(
	args: readonly string[],
	usage: string,
	flags: readonly Flag[] = []
): Promise<FolderArguments<Flag> | number> {
	const more = Object.fromEntries(flags.map((flag) => [flag, { type: 'boolean' as const }]));
	let parsed;
	try {
		parsed = parseArgs({ args: [...args], allowPositionals: true, options: { ...FOLDER_OPTIONS, ...more } });
	} catch (error) {
		process.stderr.write(`${(error as Error).message}\n${usage}`);
		return 2;
	}
	const { positionals } = parsed;
	const values = parsed.values as Partial<Record<string, string | boolean>>;
	if (values['help']) {
		process.stdout.write(usage);
		return 0;
	}
	if (positionals.length !== 1) {
		process.stderr.write(usage);
		return 2;
	}
	const by = WAYS.find((way) => way === (values['by'] ?? 'best'));
	if (!by) {
		process.stderr.write(`--by takes ${WAYS.join(', ')}, not ${String(values['by'])}.\n${usage}`);
		return 2;
	}
	const folder = resolve(positionals[0]!);
	const isFolder = await stat(folder).then(
		(one) => one.isDirectory(),
		() => false
	);
	if (!isFolder) {
		process.stderr.write(`${folder} is not a folder that can be read.\n`);
		return 1;
	}
	return {
		folder,
		by,
		...(typeof values['reference'] === 'string' ? { reference: values['reference'] } : {}),
		...(typeof values['json'] === 'string' ? { json: values['json'] } : {}),
		isQuiet: values['quiet'] === true,
		flags: Object.fromEntries(flags.map((flag) => [flag, values[flag] === true])) as Record<Flag, boolean>
	};
}

/** Writes a result where it was asked for, whole or not at all. @param target standard output where there is none */
export async function writeResult(result: object, target: string | undefined): Promise<void> {
	const text = `${JSON.stringify(result, null, '\t')}\n`;
	if (target === undefined) {
		process.stdout.write(text);
		return;
	}
	const path = resolve(target);
	await writeFile(`${path}.part`, text);
	await rename(`${path}.part`, path);
}

/** A line a step of five percent: short enough for a log, often enough for a person. */
export function progressLine(): (progress: AlignProgress) => void {
	let last = '';
	return ({ share, what }) => {
		const line = `Lining up, ${Math.floor(share * 20) * 5}%`;
		if (line === last) return;
		last = line;
		process.stderr.write(`${line} (${what})\n`);
	};
}
