import type { StoredCall, StoredProgram } from '../shoot/decisions';
import { masterOf, placedClips } from '../shoot/lookup';
import { type PlacedClip, placedEnd } from '../shoot/clip';
import type { Shoot } from '../shoot/shoot';
import { flicksToVideoFrame, videoFrameToFlicks } from '../time/flicks';
import type { Rational } from '../time/rational';

/** The stretch between two calls. */
export interface Shot {
	readonly callId: string;
	readonly deviceId: string;
	readonly inFlicks: number;
	readonly outFlicks: number;
}

/** A change of a program by the editor. */
export type ProgramEdit =
	| { readonly kind: 'call'; readonly atFlicks: number; readonly deviceId: string; readonly newId: string }
	| { readonly kind: 'change-shot'; readonly callId: string; readonly deviceId: string }
	| { readonly kind: 'move-call'; readonly callId: string; readonly atFlicks: number }
	| { readonly kind: 'drop-call'; readonly callId: string }
	| { readonly kind: 'trim'; readonly inFlicks: number; readonly outFlicks: number };

/** Shots in order; together they fill the program without a gap. */
export function shotsOf(program: StoredProgram): readonly Shot[] {
	const calls = inOrder(program.calls);
	return calls.flatMap((call, index) => {
		const inFlicks = index === 0 ? program.inFlicks : Math.max(program.inFlicks, call.atFlicks);
		const outFlicks = Math.min(program.outFlicks, calls[index + 1]?.atFlicks ?? program.outFlicks);
		return outFlicks > inFlicks ? [{ callId: call.id, deviceId: call.deviceId, inFlicks, outFlicks }] : [];
	});
}

export function shotAt(program: StoredProgram, flicks: number): Shot | undefined {
	return shotsOf(program).find((shot) => flicks >= shot.inFlicks && flicks < shot.outFlicks);
}

function inOrder(calls: readonly StoredCall[]): readonly StoredCall[] {
	return [...calls].sort((a, b) => a.atFlicks - b.atFlicks);
}

/**
 * A program after an edit. Times are put on the line-up's frame grid; a call of the angle that is on air anyway is
 * none, so neighbouring shots always differ.
 */
export function editProgram(program: StoredProgram, edit: ProgramEdit, rate: Rational): StoredProgram {
	const onGrid = (flicks: number) => videoFrameToFlicks(flicksToVideoFrame(flicks, rate), rate);
	switch (edit.kind) {
		case 'call': {
			const at = Math.max(program.inFlicks, Math.min(onGrid(edit.atFlicks), onGrid(program.outFlicks - 1)));
			const first = inOrder(program.calls)[0];
			// A call before or at the first one changes the first shot.
			const same =
				program.calls.find((call) => call.atFlicks === at) ??
				(first && at <= Math.max(first.atFlicks, program.inFlicks) ? first : undefined);
			const calls = same
				? program.calls.map((call) => (call.id === same.id ? { ...call, deviceId: edit.deviceId } : call))
				: [...program.calls, { id: edit.newId, atFlicks: at, deviceId: edit.deviceId }];
			return { ...program, calls: withoutRepeats(calls) };
		}
		case 'change-shot':
			return {
				...program,
				calls: withoutRepeats(
					program.calls.map((call) => (call.id === edit.callId ? { ...call, deviceId: edit.deviceId } : call))
				)
			};
		case 'move-call': {
			const calls = inOrder(program.calls);
			const index = calls.findIndex((call) => call.id === edit.callId);
			// The first shot begins where the program begins.
			if (index <= 0) return program;
			const frame = videoFrameToFlicks(1, rate);
			const least = Math.max(program.inFlicks, calls[index - 1]!.atFlicks) + frame;
			const most = (calls[index + 1]?.atFlicks ?? program.outFlicks) - frame;
			const at = onGrid(Math.max(least, Math.min(most, edit.atFlicks)) + 1);
			return { ...program, calls: calls.map((call) => (call.id === edit.callId ? { ...call, atFlicks: at } : call)) };
		}
		case 'drop-call': {
			const calls = inOrder(program.calls);
			if (calls.length <= 1) return program;
			const index = calls.findIndex((call) => call.id === edit.callId);
			if (index < 0) return program;
			// Without the first call the second shot begins the program.
			return { ...program, calls: withoutRepeats(calls.filter((call) => call.id !== edit.callId)) };
		}
		case 'trim':
			return edit.outFlicks > edit.inFlicks
				? { ...program, inFlicks: onGrid(edit.inFlicks), outFlicks: onGrid(edit.outFlicks) }
				: program;
	}
}

function withoutRepeats(calls: readonly StoredCall[]): readonly StoredCall[] {
	return inOrder(calls).filter((call, index, all) => index === 0 || all[index - 1]!.deviceId !== call.deviceId);
}

/** Angles: cameras with a clip on the line-up, in the order of the devices. */
export function anglesOf(shoot: Shoot, lineUpId: string): readonly string[] {
	const placed = new Set(placedClips(shoot, lineUpId).map((clip) => clip.deviceId));
	return shoot.devices.filter((device) => device.kind === 'camera' && placed.has(device.id)).map((device) => device.id);
}

/** A camera that runs for less than this share of the line-up is roaming: it does not hold up the beginning. */
const ROAMING_SHARE = 0.5;

/**
 * Begins where all steady angles and the master audio exist, ends where the first of them ends; on the frame grid.
 * Recorders that nobody hears do not hold it up.
 */
export function rangeOfAllAngles(
	shoot: Shoot,
	lineUpId: string
): { readonly inFlicks: number; readonly outFlicks: number } {
	const clips = placedClips(shoot, lineUpId);
	const whole = extent(clips);
	const heard = new Set(masterOf(shoot, lineUpId).map((one) => one.deviceId));
	const steady = shoot.devices
		.filter((device) => device.kind === 'camera' || heard.has(device.id))
		.map((device) => clips.filter((clip) => clip.deviceId === device.id))
		.filter(
			(own) =>
				own.reduce((sum, clip) => sum + clip.durationFlicks, 0) > ROAMING_SHARE * (whole.outFlicks - whole.inFlicks)
		)
		.map(extent);
	const inFlicks = Math.max(whole.inFlicks, ...steady.map((one) => one.inFlicks));
	const outFlicks = Math.min(whole.outFlicks, ...steady.map((one) => one.outFlicks));
	const range = outFlicks > inFlicks ? { inFlicks, outFlicks } : whole;
	const firstFrame = flicksToVideoFrame(range.inFlicks - 1, shoot.rate) + 1;
	const endFrame = flicksToVideoFrame(range.outFlicks, shoot.rate);
	return { inFlicks: videoFrameToFlicks(firstFrame, shoot.rate), outFlicks: videoFrameToFlicks(endFrame, shoot.rate) };
}

function extent(clips: readonly PlacedClip[]): { inFlicks: number; outFlicks: number } {
	return {
		inFlicks: Math.min(...clips.map((clip) => clip.placement.startFlicks)),
		outFlicks: Math.max(...clips.map(placedEnd))
	};
}
