import { getContext, setContext } from 'svelte';
import { z } from 'zod';
import { keep, readKept } from '../state/kept';

const Stored = z.object({
	hidden: z.array(z.string()).default([]),
	large: z.string().optional()
});
type Stored = z.infer<typeof Stored>;

/** How the wall looks to this editor: for the eye only, an angle that is hidden can be called as ever. */
export class WallLook {
	private stored = $state.raw<Stored>({ hidden: [] });
	private readonly key: string;

	constructor(shootId: string) {
		this.key = `open-choir.wall.${shootId}`;
		this.stored = readKept(this.key, Stored);
	}

	/** The angle that is shown larger than the others. */
	get largeId(): string | undefined {
		return this.stored.large;
	}

	isHidden(deviceId: string): boolean {
		return this.stored.hidden.includes(deviceId);
	}

	hide(deviceId: string): void {
		this.store({
			hidden: [...this.stored.hidden.filter((one) => one !== deviceId), deviceId],
			large: this.largeId === deviceId ? undefined : this.largeId
		});
	}

	showAll(): void {
		this.store({ ...this.stored, hidden: [] });
	}

	/** @param deviceId nothing: all alike */
	enlarge(deviceId: string | undefined): void {
		this.store({ ...this.stored, large: deviceId });
	}

	private store(stored: Stored): void {
		this.stored = stored;
		keep(this.key, stored);
	}
}

const KEY = Symbol('wall look');

export function provideWallLook(look: WallLook): void {
	setContext(KEY, look);
}

export function useWallLook(): WallLook {
	return getContext<WallLook>(KEY);
}
