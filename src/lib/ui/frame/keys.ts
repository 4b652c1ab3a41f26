import { flicksToVideoFrame, FLICKS_PER_SECOND, videoFrameToFlicks } from '../../core/time/flicks';
import { toTimeline } from '../../core/shoot/placement';
import type { Transport } from '../playback/transport.svelte';
import type { ScoreView } from '../score/score-view.svelte';
import type { ShootState } from '../state/shoot-state.svelte';
import type { KeyContext } from './key-context';
import { masterAction } from './master-keys';
import { proveAction } from './prove-keys';

/** The sheet of keys: what is shown and what is done must stay one. */
export const KEY_SHEET: readonly { readonly keys: string; readonly does: string }[] = [
	{ keys: 'Space', does: 'Play or pause' },
	{ keys: '← →', does: 'One frame back or on; with Shift ten' },
	{ keys: 'Home  End', does: 'To the beginning, to the end' },
	{ keys: ', .', does: 'To the sharp sound before or after (of the selected clip, or of all)' },
	{ keys: '+ −', does: 'Zoom the score about the playhead' },
	{ keys: '0', does: 'Show the whole line-up' },
	{ keys: '1 … 9', does: 'In Call: call this angle' },
	{ keys: 'G', does: 'Go to a typed time' },
	{ keys: '[ ]', does: 'In Call: move the selected call by a frame' },
	{ keys: 'Delete', does: 'In Call: drop the selected call' },
	{ keys: 'Ctrl Z', does: 'Undo; with Shift redo' },
	{ keys: '?', does: 'This sheet' }
];

/** Carries out what a key stands for; leaves alone what belongs to a field or a control. */
export function actOnKey(event: KeyboardEvent, context: KeyContext): void {
	const target = event.target as HTMLElement;
	if (target.closest('input:not([type="checkbox"]):not([type="range"]), textarea, select, [contenteditable], dialog'))
		return;
	const command = event.ctrlKey || event.metaKey;
	if (command && event.key.toLowerCase() === 'z') {
		event.preventDefault();
		void (event.shiftKey ? context.shoot.redo() : context.shoot.undo());
		return;
	}
	if (command || event.altKey) return;
	// A control that was reached by Tab is worked by Space and Enter, a slider by arrows.
	if ((event.key === ' ' || event.key === 'Enter') && target.closest('button, a, input, summary, [role="button"]'))
		return;
	if (event.key.startsWith('Arrow') && target.closest('input, [role="separator"], [role="menu"], [role="tablist"]'))
		return;
	const action = actionFor(event, context);
	if (!action) return;
	event.preventDefault();
	action();
}

function actionFor(event: KeyboardEvent, context: KeyContext): (() => void) | undefined {
	const { shoot, transport, view, stage, help } = context;
	const own =
		stage === 'prove'
			? proveAction(event.key, context)
			: stage === 'master'
				? masterAction(event.key, context)
				: undefined;
	if (own) return own;
	const whole = shoot.range.outFlicks - shoot.range.inFlicks;
	switch (event.key) {
		case ' ':
			return () => void transport.toggle();
		case 'ArrowLeft':
		case 'ArrowRight': {
			const frames = (event.key === 'ArrowLeft' ? -1 : 1) * (event.shiftKey ? 10 : 1);
			return () => {
				stepFrames(shoot, transport, frames);
				view.reveal(transport.shownFlicks);
			};
		}
		case 'Home':
			return () => go(transport, view, shoot.range.inFlicks);
		case 'End':
			return () => go(transport, view, shoot.range.outFlicks);
		case ',':
		case '.':
			return () => toSharpSound(shoot, transport, view, event.key === '.');
		case '+':
		case '=':
			return () => view.zoom(1 / 1.6, view.x(transport.shownFlicks), whole);
		case '-':
			return () => view.zoom(1.6, view.x(transport.shownFlicks), whole);
		case '0':
			return () => view.fit(shoot.range.inFlicks, shoot.range.outFlicks);
		case '[':
		case ']':
			return stage === 'call' ? () => moveCall(shoot, event.key === ']' ? 1 : -1) : undefined;
		case 'g':
			return () => (view.isGoToOpen = true);
		case 'Delete':
		case 'Backspace':
			return stage === 'call' && shoot.selectedCallId ? () => dropCall(shoot) : undefined;
		case '?':
			return help;
	}
	if (stage === 'call' && /^[1-9]$/.test(event.key)) {
		const angle = shoot.angles[Number(event.key) - 1];
		return angle && (() => void callAngle(shoot, transport, angle.id));
	}
	return undefined;
}

/** Calls an angle at this very moment of the audio clock. */
export async function callAngle(shoot: ShootState, transport: Transport, deviceId: string): Promise<void> {
	const atFlicks = Math.round(transport.now());
	await shoot.editLineUp((lineUpId) => ({ kind: 'call', lineUpId, atFlicks, deviceId }));
}

export function stepFrames(shoot: ShootState, transport: Transport, frames: number): void {
	if (transport.playing) transport.pause();
	const { rate } = shoot.shoot;
	transport.goTo(videoFrameToFlicks(flicksToVideoFrame(transport.shownFlicks, rate) + frames, rate));
}

function go(transport: Transport, view: ScoreView, flicks: number): void {
	transport.goTo(flicks);
	view.reveal(flicks);
}

/** Times on the line-up of the sharp sounds of all placed clips, or of one. */
export function sharpSoundTimes(shoot: ShootState, clipId?: string): readonly number[] {
	return shoot.placed
		.filter((clip) => clipId === undefined || clip.id === clipId)
		.flatMap((clip) => clip.sharpSounds.map((flicks) => toTimeline(clip.placement, flicks)))
		.sort((a, b) => a - b);
}

/** Sharp sounds nearer than this are one and the same, heard by several. */
const SAME_SOUND_FLICKS = FLICKS_PER_SECOND / 20;

export function toSharpSound(shoot: ShootState, transport: Transport, view: ScoreView, onwards: boolean): void {
	const at = transport.shownFlicks;
	const own = shoot.selectedClipId === undefined ? [] : sharpSoundTimes(shoot, shoot.selectedClipId);
	const times = own.length > 0 ? own : sharpSoundTimes(shoot);
	const next = onwards
		? times.find((time) => time > at + SAME_SOUND_FLICKS)
		: times.findLast((time) => time < at - SAME_SOUND_FLICKS);
	if (next !== undefined) go(transport, view, Math.round(next));
}

/** Moves the call that the selected shot begins with. */
export function moveCall(shoot: ShootState, frames: number): void {
	const { rate } = shoot.shoot;
	void shoot.editLineUp((lineUpId) => {
		const shot = shoot.shots.find((one) => one.callId === shoot.selectedCallId);
		if (!shot) return undefined;
		const atFlicks = videoFrameToFlicks(flicksToVideoFrame(shot.inFlicks, rate) + frames, rate);
		return { kind: 'move-call', lineUpId, callId: shot.callId, atFlicks };
	});
}

/** Drops the call that the selected shot begins with. */
export function dropCall(shoot: ShootState): void {
	void shoot.editLineUp((lineUpId) =>
		shoot.selectedCallId === undefined ? undefined : { kind: 'drop-call', lineUpId, callId: shoot.selectedCallId }
	);
}
