import { FLICKS_PER_SECOND, flicksToVideoFrame, secondsToFlicks, videoFrameToFlicks } from '../../core/time/flicks';
import { asPicture } from '../../core/shoot/air-delay';
import { clipAt } from '../../core/shoot/lookup';
import { toMedia, toTimeline } from '../../core/shoot/placement';
import { placedEnd, type PlacedClip } from '../../core/shoot/clip';
import { attackNear } from '../playback/attack-near';
import { SCOPES } from '../state/proof-state.svelte';
import type { KeyContext } from './key-context';

/** Keys of Prove, as the sheet shows them. */
export const PROVE_KEY_SHEET: readonly { readonly keys: string; readonly does: string }[] = [
	{ keys: '↑ ↓', does: 'Choose the clip in the lane above or below, at the playhead' },
	{ keys: '[ ]', does: 'Move by a frame of the line-up' },
	{ keys: '( )', does: 'Move by a millisecond' },
	{ keys: '{ }', does: 'Move by a sample' },
	{ keys: 'W', does: 'What is moved: the clip, its device, all left or all right of the playhead' },
	{ keys: 'F  Enter', does: 'Measure here; take the lag that was found' },
	{ keys: 'L', does: 'Lock the selected clip, or unlock it' },
	{ keys: 'M', does: 'Mark a sync point at the nearest attack; with Shift what is seen, exactly here' },
	{ keys: 'I O', does: 'In point, out point of the selected clip' },
	{ keys: 'K', does: 'Set a marker' },
	{ keys: '< >', does: 'One picture of the selected camera back or on' },
	{ keys: 'D', does: 'Double listen: the two clips of the lens, and nothing else; X: one in each ear' },
	{ keys: 'C', does: 'Listen without drift correction, then as before the last change, then as it is' },
	{ keys: 'R', does: 'Play the passage round and round' },
	{ keys: 'H', does: 'Drag clips in the score, or the playhead again; N: snapping on and off' }
];

/** What a key does in Prove; nothing where it means nothing there. */
export function proveAction(key: string, context: KeyContext): (() => void) | undefined {
	const { shoot, transport, proof, listening } = context;
	const playhead = () => transport.shownFlicks;
	const step = (byFlicks: number) => () => void proof.shift(byFlicks, playhead());
	switch (key) {
		case 'ArrowUp':
		case 'ArrowDown':
			return () => chooseNeighbour(context, key === 'ArrowUp' ? -1 : 1);
		case '[':
		case ']':
			return step(videoFrameToFlicks(key === ']' ? 1 : -1, shoot.shoot.rate));
		case '(':
		case ')':
			return step(((key === ')' ? 1 : -1) * FLICKS_PER_SECOND) / 1000);
		case '{':
		case '}':
			return step(((key === '}' ? 1 : -1) * FLICKS_PER_SECOND) / 48_000);
		case 'w':
			return () => (proof.scope = SCOPES[(SCOPES.indexOf(proof.scope) + 1) % SCOPES.length]!);
		case 'f':
			return () => void proof.measure(playhead());
		case 'Enter':
			return proof.finding && proof.findingKey === proof.keyOf(playhead())
				? () => void proof.fit(proof.finding!.byFlicks)
				: undefined;
		case 'l':
			return () => void lock(context);
		case 'm':
		case 'M':
			return () => void markHere(context, key === 'M' ? 'seen' : 'heard', pointName(context));
		case 'i':
		case 'o':
			return () => setEdge(context, key === 'i' ? 'inFlicks' : 'outFlicks');
		case 'k':
			return () => addMarker(context);
		case '<':
		case '>':
			return () => stepPicture(context, key === '>' ? 1 : -1);
		case 'd':
			return () => listening.toggleDouble(proof.clip?.deviceId, proof.onto?.deviceId);
		case 'x':
			return () => (listening.inEachEar = !listening.inEachEar);
		case 'c':
			return () => void proof.nextPlaces();
		case 'r':
			return () => toggleLoop(context);
		case 'h':
			return () => (proof.drags = !proof.drags);
		case 'n':
			return () => (proof.snaps = !proof.snaps);
	}
	return undefined;
}

/** Of the lanes that run at the playhead, the clip in the next one. */
function chooseNeighbour({ shoot, transport }: KeyContext, by: number): void {
	const running = shoot.shoot.devices.flatMap((device) => {
		const clip = clipAt(shoot.placed, device.id, transport.shownFlicks);
		return clip ? [clip] : [];
	});
	if (running.length === 0) return;
	const at = running.findIndex((clip) => clip.id === shoot.selectedClipId);
	shoot.selectedClipId = running[at < 0 ? 0 : (at + by + running.length) % running.length]!.id;
}

async function lock({ shoot, proof }: KeyContext): Promise<void> {
	const { clip } = proof;
	if (clip) await shoot.edit({ kind: 'lock-clips', clipIds: [clip.id], locked: !clip.placement.isLocked });
}

/** The selected clip, if it runs at the playhead. */
function clipHere({ shoot, transport, proof }: KeyContext): PlacedClip | undefined {
	const { clip } = proof;
	return clip && clipAt(shoot.placed, clip.deviceId, transport.shownFlicks);
}

/** Marks of one event share a name: the newest one that this clip has no mark of, or the next number. */
export function pointName({ shoot, proof }: Pick<KeyContext, 'shoot' | 'proof'>): string {
	const own = new Set(proof.clip?.syncPoints.map((point) => point.name));
	const names = shoot.shoot.clips.flatMap((clip) => clip.syncPoints.map((point) => point.name));
	const open = names.findLast((name) => !own.has(name));
	if (open !== undefined) return open;
	for (let count = 1; ; count++) if (!names.includes(`Event ${count}`)) return `Event ${count}`;
}

/** Marks a sync point at the playhead: what is heard at the nearest attack, what is seen exactly here. */
export async function markHere(context: KeyContext, sense: 'heard' | 'seen', name: string): Promise<void> {
	const clip = clipHere(context);
	if (!clip) {
		context.shoot.problem = 'Choose a clip that runs at the playhead, then mark in it.';
		return;
	}
	const place = sense === 'seen' ? asPicture(clip).placement : clip.placement;
	const here = Math.max(0, Math.round(toMedia(place, context.transport.shownFlicks)));
	await context.shoot.attempt(async () => {
		const mediaFlicks = sense === 'heard' && context.proof.snaps ? await attackNear(clip, here) : here;
		await context.shoot.edit({ kind: 'add-sync-point', clipId: clip.id, mediaFlicks, name, sense });
	});
}

function setEdge(context: KeyContext, edge: 'inFlicks' | 'outFlicks'): void {
	const clip = clipHere(context);
	if (!clip) return;
	const media = Math.round(toMedia(clip.placement, context.transport.shownFlicks));
	void context.shoot.edit({ kind: 'set-in-out', clipId: clip.id, [edge]: Math.max(0, media) });
}

function addMarker({ shoot, transport }: KeyContext): void {
	const own = shoot.shoot.markers.filter((one) => one.lineUpId === shoot.lineUpId);
	void shoot.editLineUp((lineUpId) => ({
		kind: 'add-marker',
		lineUpId,
		atFlicks: Math.round(transport.shownFlicks),
		name: `Marker ${own.length + 1}`
	}));
}

/** To the beginning of a neighbouring picture of the selected camera, told by its own rate. */
function stepPicture(context: KeyContext, by: number): void {
	const clip = clipHere(context);
	const picture = clip?.parts[0]?.picture;
	if (!clip || !picture) return;
	const { placement } = asPicture(clip);
	const media = toMedia(placement, context.transport.shownFlicks) - picture.startFlicks;
	const next = videoFrameToFlicks(flicksToVideoFrame(media + 1, picture.rate) + by, picture.rate);
	if (context.transport.playing) context.transport.pause();
	context.transport.goTo(Math.ceil(toTimeline(placement, next + picture.startFlicks)));
	context.view.reveal(context.transport.shownFlicks);
}

/** The passage that the lens shows, round and round. */
export function toggleLoop({ proof, transport, shoot }: KeyContext): void {
	if (proof.loop) {
		proof.loop = undefined;
		return;
	}
	const half = secondsToFlicks(Math.max(1, proof.lensSeconds)) / 2;
	const end = Math.max(shoot.range.outFlicks, ...shoot.placed.map(placedEnd));
	const inFlicks = Math.max(shoot.range.inFlicks, transport.shownFlicks - half);
	const outFlicks = Math.min(end, transport.shownFlicks + half);
	if (outFlicks <= inFlicks) return;
	proof.loop = { inFlicks, outFlicks };
	transport.goTo(inFlicks);
}
