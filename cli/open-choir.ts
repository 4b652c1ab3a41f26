import { align } from './align';
import { measure } from './measure';

const COMMANDS: Readonly<Record<string, (args: readonly string[]) => Promise<number>>> = { align, measure };

const USAGE = `Usage: open-choir COMMAND …

  align FOLDER --json OUT.json     line up all recordings below a folder
  measure FOLDER --json OUT.json   line them up, measure and rank their sound, find who speaks when
`;

const [name, ...args] = process.argv.slice(2);
const command = COMMANDS[name ?? ''];
if (!command) {
	process.stderr.write(USAGE);
	process.exitCode = name === 'help' || name === '--help' ? 0 : 2;
} else {
	try {
		process.exitCode = await command(args);
	} catch (error) {
		process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
		process.exitCode = 1;
	}
}
