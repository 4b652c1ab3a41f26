import type { SoundRun } from '../../core/program/sound-runs';
import type { ListeningFiles, SoundWanted } from './listening-sound';

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
	| { readonly kind: 'give-up'; readonly id: number };

/** What was laid: nothing where the device has no sound at all there. */
export interface SoundRows {
	readonly id: number;
	readonly rows?: readonly Float32Array<ArrayBuffer>[];
	readonly problem?: string;
}
