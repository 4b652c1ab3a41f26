import Papa from 'papaparse';
import { mkdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { type BegunHandOff, HAND_OFFS, type HandOffKind, type NewHandOff } from '../../../contract/hand-offs';
import { toOtio } from '../../../core/exchange/otio';
import { shotList } from '../../../core/exchange/shot-list';
import type { StoredProgram } from '../../../core/shoot/decisions';
import type { Shoot } from '../../../core/shoot/shoot';
import type { JobContext } from '../../jobs/job-queue';
import type { Runtime } from '../../runtime';
import { lineUpOf, programOf } from '../../shoots/found';
import { ShootError } from '../../shoots/shoot-error';
import type { WriteHandOff } from './hand-off';
import { putInPlace } from './hand-offs';
import { writeMovie } from './render-movie';

/** How each kind of hand-off is written; what it is called and can hold stands in the contract. */
const WRITERS: Readonly<Record<HandOffKind, WriteHandOff>> = {
	movie: writeMovie,
	otio: asText((shoot, program) => toOtio(shoot, program, (part) => pathToFileURL(part.path).href)),
	// Spreadsheets know it for UTF-8 by its first mark; a cell that begins like a formula is none.
	shots: asText(
		(shoot, program) =>
			`\ufeff${Papa.unparse([...shotList(shoot, program)], { escapeFormulae: true, newline: '\r\n' })}\r\n`
	)
};

/** What is written at once, from the shoot and the program alone. */
function asText(write: (shoot: Shoot, program: StoredProgram) => string): WriteHandOff {
	return async ({ shoot, lineUpId, working }) => {
		const path = join(working, 'hand-off');
		await writeFile(path, write(shoot, programOf(shoot, lineUpId)));
		return path;
	};
}

/** Makes a hand-off: at once, or by a job where it takes long. @throws ShootError there is nothing to hand off */
export async function beginHandOff(
	runtime: Runtime,
	shootId: string,
	{ kind, lineUpId }: NewHandOff
): Promise<BegunHandOff> {
	const { shoot } = await runtime.shoots.current(shootId);
	assertPossible(shoot, kind, lineUpId);
	if (HAND_OFFS[kind].isLong)
		return { handOffId: null, jobId: await runtime.queue.add(shootId, 'hand-off', { kind, lineUpId }) };
	const working = workingFolder(runtime, crypto.randomUUID());
	try {
		const signal = new AbortController().signal;
		const request = { runtime, shoot, lineUpId, working, signal, progress: () => undefined };
		return { handOffId: await make(request, kind), jobId: null };
	} finally {
		await rm(working, { recursive: true, force: true });
	}
}

function assertPossible(shoot: Shoot, kind: HandOffKind, lineUpId: string): void {
	programOf(shoot, lineUpId);
	if (HAND_OFFS[kind].needsMaster && lineUpOf(shoot, lineUpId).master.length === 0)
		throw new ShootError(
			'no-master',
			`Choose a master audio source first: the ${HAND_OFFS[kind].name} would be silent.`
		);
}

/** Job: makes a hand-off. It appears under its name only when it is whole. */
export async function makeHandOff(runtime: Runtime, context: JobContext<'hand-off'>): Promise<Record<string, unknown>> {
	const { kind, lineUpId } = context.input;
	const { shoot } = await runtime.shoots.current(context.shootId);
	assertPossible(shoot, kind, lineUpId);
	const working = workingFolder(runtime, context.jobId);
	const { signal } = context;
	const progress = (share: number, message: string) => context.progress(share, message);
	try {
		const handOffId = await make({ runtime, shoot, lineUpId, working, signal, progress }, kind);
		await rm(working, { recursive: true, force: true });
		return { handOffId };
	} catch (error) {
		// Stopped by the editor: nothing of it is wanted any more. Cut off or failed: what is done can be used again.
		if (signal.aborted && (signal.reason as Error | undefined)?.message === 'Stopped.')
			await rm(working, { recursive: true, force: true });
		throw error;
	}
}

async function make(request: Parameters<WriteHandOff>[0], kind: HandOffKind): Promise<string> {
	await mkdir(request.working, { recursive: true });
	const path = await WRITERS[kind](request);
	return putInPlace(request.runtime, request.shoot, request.lineUpId, path, kind);
}

function workingFolder({ settings }: Runtime, id: string): string {
	return join(settings.dataFolder, 'rendering', id);
}
