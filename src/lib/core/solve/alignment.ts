import type { ClipBend } from './direct/clip-bends';
import type { Ambiguity } from './links/find-links';
import type { StrayReason } from './system/line-ups';
import type { Loss, StretchLink } from './losses/lost-samples';

/** Where a stretch of a clip lies: `timelineTime = startSeconds + mediaTime * (1 + ratePpm * 1e-6)`. */
export interface PlacedPart {
	readonly fromSeconds: number;
	readonly startSeconds: number;
}

/** Where a clip lies; its plain start is the longest part's. */
export interface Placed {
	readonly clip: number;
	readonly startSeconds: number;
	readonly ratePpm: number;
	readonly confidence: number;
	readonly residualSeconds: number;
	/** Only where it lost samples: its parts, in order. */
	readonly parts: readonly PlacedPart[];
	readonly losses: readonly Loss[];
	/** Only where its clock bends. */
	readonly bend?: ClipBend;
	readonly method: 'audio' | 'timecode';
}

export interface AlignedLineUp {
	readonly referenceDevice: string;
	readonly placed: readonly Placed[];
	readonly links: readonly ProvedLink[];
	/** What the devices' timecodes are worth. */
	readonly clocks: readonly DeviceClock[];
}

/** Evidence, and how far the solution lies from it; nothing where only its pattern of echoes is known, not the direct sound. */
export interface ProvedLink extends StretchLink {
	readonly offSeconds?: number;
}

export interface Stray {
	readonly clip: number;
	readonly reason: StrayReason;
	/** For an ambiguous clip: where it could lie. */
	readonly ambiguity?: Ambiguity;
}

export interface Alignment {
	readonly lineUps: readonly AlignedLineUp[];
	readonly strays: readonly Stray[];
	/** Evidence that most others speak against. */
	readonly contradictory: readonly StretchLink[];
}

/** What a device's timecode is worth, told by its clips that sound has placed. */
export interface DeviceClock {
	readonly device: string;
	/** Line-up time less timecode, in seconds; in the middle of its clips. */
	readonly offsetSeconds: number;
	/** Whether it runs with the clocks of most other devices. */
	readonly agrees: boolean;
	/** How much it is ahead of those, where it does not agree. */
	readonly aheadSeconds: number;
	readonly fault?: ClockFault;
	/** Clips that prove it. */
	readonly clips: number;
}

/** What is wrong with a clock that is off. */
export type ClockFault =
	| { readonly kind: 'hours'; readonly hours: number }
	| { readonly kind: 'rate flag'; readonly flagged: number; readonly counted: number }
	| { readonly kind: 'other' };
