import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { toOtio } from '../../../core/exchange/otio';
import { programOf } from '../../shoots/found';
import type { WriteHandOff } from './hand-off';

/** Writes the line-up and its program as one OpenTimelineIO file. */
export const writeOtio: WriteHandOff = async ({ shoot, lineUpId, working }) => {
	const text = toOtio(shoot, programOf(shoot, lineUpId), (part) => pathToFileURL(part.path).href);
	const path = join(working, 'line-up.otio');
	await writeFile(path, text);
	return path;
};
