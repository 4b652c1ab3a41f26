import type { SoundInterval } from '../../core/program/mixed-sound';
import type { SoundRun } from '../../core/program/sound-runs';
import type { ListeningFiles, SoundWanted } from './listening-sound';

/** What the audience hears, as if it were a device: channel 0 is left, 1 right. */
export const MIX = 'mix';

export type SoundMessage =
	| {
			readonly kind: 'material';
			readonly runsByDevice: ReadonlyMap<string, readonly SoundRun[]>;
			readonly files: ListeningFiles;
	  }
	| {
			readonly kind: 'lay';
			readonly id: number;
			readonly deviceId: string;
			readonly wanted: SoundWanted;
			/** What is not heard yet waits for what is. */
			readonly priority: 'high' | 'low';
	  }
	/** What the audience hears from now on. */
	| { readonly kind: 'mix'; readonly intervals: readonly SoundInterval[] }
	| { readonly kind: 'give-up'; readonly id: number };

/** What was laid: nothing where the device has no sound at all there. */
export interface SoundRows {
	readonly id: number;
	readonly rows?: readonly Float32Array<ArrayBuffer>[];
	readonly problem?: string;
}
