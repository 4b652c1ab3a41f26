import type { Course } from '../../core/time/course';
import type { ClockAnchor } from './transport.svelte';
import type { Cell } from './wall-cells';

/** What must be known of a recording to show its own pictures. */
export interface OwnPictures {
	/** Its first picture's time as the file counts. */
	readonly startSeconds: number;
	readonly secondsPerPicture: number;
	/** Of one picture. */
	readonly points: number;
	/** What its colours mean where it does not say so itself. */
	readonly colourSpace: VideoColorSpaceInit;
}

/** One file's pictures on the line-up. */
export interface WallFile {
	readonly fileId: string;
	/** Key of the file, as the server checks it. */
	readonly identity: string;
	readonly deviceId: string;
	/** Length of its pictures, from the first on. */
	readonly seconds: number;
	/** Where browsers may show the recording itself. */
	readonly own?: OwnPictures;
	/** Where it begins to show, and where it ends. */
	readonly beginFlicks: number;
	readonly endFlicks: number;
	/** From the time since that picture to the line-up's. */
	readonly course: Course;
}

/** An angle's place in the wall, in picture points. */
export type WallTile = Cell;

/** What is on air, from the compiled plan: a stretch of the program that shows one device, playing or one picture of it. */
export interface WallAir {
	readonly inFlicks: number;
	readonly outFlicks: number;
	/** Nothing where the program is black. */
	readonly deviceId?: string;
	/** Line-up time of the picture that is held; nothing where it plays. */
	readonly heldFlicks?: number;
}

export type WallMessage =
	| {
			readonly kind: 'canvas';
			readonly canvas: OffscreenCanvas;
			/** For the picture of whichever angle is on air. */
			readonly air?: OffscreenCanvas;
	  }
	| { readonly kind: 'size'; readonly width: number; readonly height: number; readonly tiles: readonly WallTile[] }
	| { readonly kind: 'files'; readonly files: readonly WallFile[] }
	| { readonly kind: 'air'; readonly air: readonly WallAir[] }
	| { readonly kind: 'clock'; readonly anchor: ClockAnchor };

/** What an angle shows that is not the picture of this very time. */
export interface AngleState {
	readonly deviceId: string;
	/** How old the still is that shows; nothing where nothing shows. */
	readonly ageSeconds?: number;
	/** When the right picture will be there, as far as is known. */
	readonly secondsLeft?: number;
	readonly problem?: string;
}

/** How well the wall keeps up, over the last second or so. */
export interface WallReport {
	readonly kind: 'report';
	/** Pictures shown in time, late by one picture, later; and stills, where no picture of that time was there yet. */
	readonly exact: number;
	readonly byOne: number;
	readonly worse: number;
	readonly stills: number;
	/** Of angles beside what is on air, every so many-th picture is shown: those are counted. */
	readonly every: number;
	/** Files that hold a decoder or pictures. */
	readonly open: number;
	/** Angles that show any picture. */
	readonly shown: number;
	/** Something has no picture yet, or what is on air not the right one: all else may wait. */
	readonly isBusy: boolean;
	/** Angles that do not show the picture of this very time. */
	readonly behind: readonly AngleState[];
	readonly problem?: string;
}
