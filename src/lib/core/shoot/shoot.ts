import type { Rational } from '../time/rational';
import type { Clip, NewFile, BadFile } from './clip';
import type { StoredProgram } from './decisions';
import type { HandOff } from './hand-off';
import type { Device } from './device';
import type { ShootLineUp, Marker, Signature } from './line-up';
import type { Person } from './person';

/** The shoot as the page, the renderer and the exchange files see it. All times are whole flicks. */
export interface Shoot {
	readonly id: string;
	readonly name: string;
	readonly folder: string;
	/** Grows with every change. */
	readonly revision: number;
	/** Frame rate and size of the line-up: the main camera's. */
	readonly rate: Rational;
	readonly width: number;
	readonly height: number;
	/** Rate and size were set by hand. */
	readonly hasOwnRate: boolean;
	/** Temperature of the air, for air delays. */
	readonly airCelsius: number;
	/** Folders its files come from. */
	readonly sources: readonly { readonly id: string; readonly path: string; readonly kind: 'folder' | 'upload' }[];
	readonly mainCameraId?: string;
	readonly devices: readonly Device[];
	readonly clips: readonly Clip[];
	readonly badFiles: readonly BadFile[];
	/** Files that are in no clip yet. */
	readonly newFiles: readonly NewFile[];
	readonly lineUps: readonly ShootLineUp[];
	readonly programs: readonly StoredProgram[];
	readonly markers: readonly Marker[];
	readonly signatures: readonly Signature[];
	/** The newest first. */
	readonly handOffs: readonly HandOff[];
	/** Who speaks in it, in their order. */
	readonly people: readonly Person[];
	readonly undo?: string;
	readonly redo?: string;
}
