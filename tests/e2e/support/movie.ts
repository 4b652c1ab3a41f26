import { runProgram } from '../../../scripts/outside-programs';

/** Length of a movie, as its container tells it. */
export async function movieSeconds(path: string): Promise<number> {
	const { stdout } = await runProgram('ffprobe', [
		'-v',
		'error',
		'-show_entries',
		'format=duration',
		'-of',
		'csv=p=0',
		path
	]);
	return Number(stdout);
}
