import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { toOtio } from '../../../core/exchange/otio';
import type { Runtime } from '../../runtime';
import { loadShoot } from '../../shoots/load-shoot';
import { putInPlace } from './hand-offs';
import { ShootError } from '../../shoots/shoot-error';

/** Writes the line-up and its program as one OpenTimelineIO file. @returns the hand-off's identity */
export async function writeOtio(runtime: Runtime, shootId: string, lineUpId: string): Promise<string> {
	const shoot = await loadShoot(runtime.database, shootId);
	const program = shoot.programs.find((one) => one.lineUpId === lineUpId);
	if (!program) throw new ShootError('not-possible', 'There is no program yet: line up the clips first.');
	const text = toOtio(shoot, program, (part) => pathToFileURL(part.path).href);
	const working = join(runtime.settings.dataFolder, 'rendering');
	await mkdir(working, { recursive: true });
	const passing = join(working, `${crypto.randomUUID()}.otio`);
	await writeFile(passing, text);
	return putInPlace(runtime, shoot, passing, 'otio', 'otio');
}
