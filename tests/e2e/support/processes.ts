import { readdir, readFile } from 'node:fs/promises';

/** Commands of whatever still works on a folder: with the server it must end. */
export async function processesThatName(folder: string): Promise<readonly string[]> {
	const ids = (await readdir('/proc')).filter((name) => /^\d+$/.test(name));
	const commands = await Promise.all(ids.map((id) => readFile(`/proc/${id}/cmdline`, 'utf8').catch(() => '')));
	return commands.filter((command) => command.includes(folder));
}
