import type { StrayReason } from '../../core/solve/system/line-ups';

/** Why a clip has no place, and what to do now: one sentence each. */
export function strayWords(reason: StrayReason): { readonly why: string; readonly next: string } {
	switch (reason) {
		case 'no sound stream':
			return {
				why: 'It has no sound, so there is nothing to compare.',
				next: 'Mark one event in its picture and in another clip, and line up by that sync point.'
			};
		case 'silent':
			return {
				why: 'Its sound is silence from end to end.',
				next: 'Mark a sync point in its picture, or leave it out.'
			};
		case 'too short to tell':
			return {
				why: 'It is too short: so little sound fits in many places.',
				next: 'Mark a sync point in it and in another clip.'
			};
		case 'no common sound with anything':
			return {
				why: 'Nothing in it was heard by any other device.',
				next: 'It was probably recorded at another time: leave it out, or add the recordings of that time.'
			};
		case 'ambiguous':
			return { why: 'It fits in several places about equally well.', next: 'Decide by a sync point.' };
		case 'contradicts others':
			return {
				why: 'Its place would contradict clips that are surer.',
				next: 'Check that it belongs to this device, or decide by a sync point.'
			};
		case 'no timecode':
			return { why: 'It carries no timecode.', next: 'Line up by sound, or decide by a sync point.' };
		case 'nothing else at that time':
			return {
				why: 'By timecode nothing else was recorded at its time.',
				next: 'Check the clock of its device, or line up by sound.'
			};
		case 'unreadable':
			return { why: 'Its sound cannot be decoded.', next: 'Copy the file from its card again.' };
		case 'beyond limits':
			return {
				why: 'Its length or its place is beyond what a recording can have: its file is damaged.',
				next: 'Undo what moved it so far, or copy the file from its card again.'
			};
	}
}
