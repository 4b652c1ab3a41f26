import { z } from 'zod';
import { keep, readKept } from './kept';
import { STAGES, type Stage } from './stages';

const LeftOff = z.object({
	stage: z.enum(STAGES).default('gather'),
	/** On one line-up: where the playhead stood, and what the score showed. */
	lineUpId: z.string().optional(),
	flicks: z.number().default(0),
	startFlicks: z.number().optional(),
	flicksPerPixel: z.number().positive().optional()
});

/** Where the work on a shoot was left. */
export type LeftOff = Readonly<z.infer<typeof LeftOff>>;

function keyOf(shootId: string): string {
	return `open-choir.left-off.${shootId}`;
}

export function readLeftOff(shootId: string): LeftOff {
	return readKept(keyOf(shootId), LeftOff);
}

export function keepLeftOff(shootId: string, left: LeftOff): void {
	keep(keyOf(shootId), left);
}

/** The stage that a shoot opens at. */
export function openingStage(shootId: string): Stage {
	return readLeftOff(shootId).stage;
}
