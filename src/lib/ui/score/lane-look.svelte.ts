import { getContext, setContext } from 'svelte';
import { z } from 'zod';
import { keep, readKept } from '../state/kept';
import { TIMES_SHOWN } from './score-times';

/** How high a lane is: as many as fit, only a ribbon, or tall enough to see single waves. */
export type LaneHeight = 'normal' | 'folded' | 'tall';

const FOLDED_PIXELS = 18;
const TALL_PIXELS = 140;

const Stored = z.object({
	heights: z.record(z.string(), z.enum(['normal', 'folded', 'tall'])).default({}),
	hidden: z.array(z.string()).default([]),
	programPictures: z.enum(['where there is room', 'shown', 'hidden']).default('where there is room'),
	time: z.enum(TIMES_SHOWN).default('timecode')
});
type Stored = z.infer<typeof Stored>;

/** How the score's lanes look to this editor, kept in the browser. Nothing that leaves depends on it. */
export class LaneLook {
	private stored = $state.raw<Stored>(Stored.parse({}));
	private readonly key: string;

	constructor(shootId: string) {
		this.key = `open-choir.lanes.${shootId}`;
		this.stored = readKept(this.key, Stored);
	}

	get time(): Stored['time'] {
		return this.stored.time;
	}

	get hiddenCount(): number {
		return this.stored.hidden.length;
	}

	isHidden(deviceId: string): boolean {
		return this.stored.hidden.includes(deviceId);
	}

	heightOf(deviceId: string): LaneHeight {
		return this.stored.heights[deviceId] ?? 'normal';
	}

	/** In points of the screen; nothing for a lane that takes what is left. */
	fixedPixels(deviceId: string): number | undefined {
		const height = this.heightOf(deviceId);
		return height === 'folded' ? FOLDED_PIXELS : height === 'tall' ? TALL_PIXELS : undefined;
	}

	/** Whether the program is shown with its pictures. */
	get programPictures(): Stored['programPictures'] {
		return this.stored.programPictures;
	}

	showProgramPictures(shown: boolean): void {
		this.store({ ...this.stored, programPictures: shown ? 'shown' : 'hidden' });
	}

	setHeight(deviceId: string, height: LaneHeight): void {
		this.store({ ...this.stored, heights: { ...this.stored.heights, [deviceId]: height } });
	}

	setHidden(deviceId: string, hidden: boolean): void {
		const others = this.stored.hidden.filter((one) => one !== deviceId);
		this.store({ ...this.stored, hidden: hidden ? [...others, deviceId] : others });
	}

	showAll(): void {
		this.store({ ...this.stored, hidden: [] });
	}

	showTimeAs(time: Stored['time']): void {
		this.store({ ...this.stored, time });
	}

	private store(stored: Stored): void {
		this.stored = stored;
		keep(this.key, stored);
	}
}

const KEY = Symbol('lane look');

export function provideLaneLook(look: LaneLook): void {
	setContext(KEY, look);
}

export function useLaneLook(): LaneLook {
	return getContext<LaneLook>(KEY);
}
