import type { CommandInput, CommandKind } from '../../src/lib/contract/commands/commands';
import { POINT_WAYS } from '../../src/lib/contract/commands/prove';
import type { Shoot } from '../../src/lib/core/shoot/shoot';
import { FLICKS_PER_SECOND } from '../../src/lib/core/time/flicks';

type Random = () => number;

/** Made-up commands of every kind, about what is in the shoot; some of them cannot be carried out. */
export function randomCommand(shoot: Shoot, random: Random): CommandInput {
	const kinds = Object.keys(MAKERS) as CommandKind[];
	return MAKERS[pick(kinds, random)](shoot, random);
}

function pick<Item>(items: readonly Item[], random: Random): Item {
	return items[Math.floor(random() * items.length)]!;
}

function some<Item>(items: readonly Item[], random: Random, least = 1): readonly Item[] {
	const chosen = items.filter(() => random() < 0.3);
	return chosen.length >= least ? chosen : items.slice(0, least);
}

const device = (shoot: Shoot, random: Random) => pick(shoot.devices, random).id;
const clip = (shoot: Shoot, random: Random) => pick(shoot.clips, random).id;
const clips = (shoot: Shoot, random: Random, least = 1) =>
	some(
		shoot.clips.map((one) => one.id),
		random,
		least
	);
/** Most of the time a clip that has no place yet, and a clock that might give it one. */
const withClock = (shoot: Shoot, random: Random) => {
	const strays = shoot.clips.filter((one) => !one.placement && one.parts[0]?.clockSeconds !== undefined);
	return strays.length > 0 && random() < 0.8 ? pick(strays, random).id : clip(shoot, random);
};
/** A line-up there is, or one of no shoot. */
const lineUpId = (shoot: Shoot, random: Random) =>
	shoot.lineUps.length > 0 ? pick(shoot.lineUps, random).id : '6f9619ff-8b86-4d01-b42d-00c04fc964ff';
const callId = (shoot: Shoot, random: Random) =>
	pick([...shoot.programs.flatMap((program) => program.calls.map((call) => call.id)), lineUpId(shoot, random)], random);
const pointId = (shoot: Shoot, random: Random) =>
	pick([...shoot.clips.flatMap((one) => one.syncPoints.map((point) => point.id)), shoot.id], random);
/** A person there is, or one of no shoot. */
const person = (shoot: Shoot, random: Random) =>
	shoot.people.length > 0 ? pick(shoot.people, random).id : '6f9619ff-8b86-4d01-b42d-00c04fc964ff';
const moment = (random: Random, mostSeconds = 300) => Math.floor(random() * mostSeconds * FLICKS_PER_SECOND);
const words = (random: Random) => `n${Math.floor(random() * 1000)}`;
const EVENTS = ['clap', 'door', 'laugh'];

const MAKERS: Readonly<Record<CommandKind, (shoot: Shoot, random: Random) => CommandInput>> = {
	'rename-shoot': (_, random) => ({ kind: 'rename-shoot', name: words(random) }),
	'rename-device': (shoot, random) => ({ kind: 'rename-device', deviceId: device(shoot, random), name: words(random) }),
	'rename-clip': (shoot, random) => ({ kind: 'rename-clip', clipId: clip(shoot, random), name: words(random) }),
	'set-badge': (shoot, random) => ({
		kind: 'set-badge',
		deviceId: device(shoot, random),
		badge: pick(['A', 'B', 'X', '7', '12'], random)
	}),
	'set-main-camera': (shoot, random) => ({ kind: 'set-main-camera', deviceId: device(shoot, random) }),
	'move-clips': (shoot, random) => ({
		kind: 'move-clips',
		clipIds: clips(shoot, random),
		deviceId: device(shoot, random)
	}),
	'split-device': (shoot, random) => ({ kind: 'split-device', clipIds: clips(shoot, random), name: words(random) }),
	'merge-devices': (shoot, random) => ({
		kind: 'merge-devices',
		deviceId: device(shoot, random),
		intoDeviceId: device(shoot, random)
	}),
	'reorder-device': (shoot, random) => ({
		kind: 'reorder-device',
		deviceId: device(shoot, random),
		place: Math.floor(random() * 6)
	}),
	'take-apart': (shoot, random) => ({
		kind: 'take-apart',
		clipId: (
			shoot.clips.find((one) => one.parts.length > 1) ??
			shoot.clips.find(() => random() < 0.3) ??
			shoot.clips[0]!
		).id
	}),
	'join-clips': (shoot, random) => {
		const own = shoot.clips.filter((one) => one.deviceId === pick(shoot.clips, random).deviceId);
		const [first, second] = own.length > 1 ? own : shoot.clips;
		return { kind: 'join-clips', clipIds: [first!.id, second!.id] };
	},
	'name-clips': (shoot, random) => ({
		kind: 'name-clips',
		names: clips(shoot, random).map((clipId) => ({ clipId, name: words(random) }))
	}),
	'note-clips': (shoot, random) => ({
		kind: 'note-clips',
		notes: clips(shoot, random).map((clipId) => ({ clipId, take: words(random), circled: random() < 0.5 }))
	}),
	'name-channel': (shoot, random) => ({
		kind: 'name-channel',
		deviceId: device(shoot, random),
		channel: Math.floor(random() * 4),
		name: random() < 0.3 ? '' : words(random)
	}),
	'set-rate': (_, random) => ({
		kind: 'set-rate',
		rate: pick([null, { num: 25, den: 1 }, { num: 30000, den: 1001 }], random),
		width: null,
		height: null
	}),
	'shift-clips': (shoot, random) => ({
		kind: 'shift-clips',
		clipIds: some(
			shoot.clips.filter((one) => one.placement).map((one) => one.id),
			random
		).concat(shoot.clips.some((one) => one.placement) ? [] : [shoot.clips[0]!.id]),
		byFlicks: moment(random, 2)
	}),
	'fit-clip': (shoot, random) => ({
		kind: 'fit-clip',
		clipId: clip(shoot, random),
		ontoClipId: clip(shoot, random),
		byFlicks: -moment(random, 1)
	}),
	'set-start': (shoot, random) => ({ kind: 'set-start', clipId: clip(shoot, random), startFlicks: moment(random) }),
	'lock-clips': (shoot, random) => ({ kind: 'lock-clips', clipIds: [clip(shoot, random)], locked: random() < 0.3 }),
	'add-sync-point': (shoot, random) => ({
		kind: 'add-sync-point',
		clipId: clip(shoot, random),
		mediaFlicks: moment(random, 20),
		name: pick(EVENTS, random),
		sense: pick(['heard', 'seen'], random)
	}),
	'drop-sync-point': (shoot, random) => ({ kind: 'drop-sync-point', pointId: pointId(shoot, random) }),
	'place-by-sync-point': (shoot, random) => ({
		kind: 'place-by-sync-point',
		pointId: pointId(shoot, random),
		ontoPointId: pointId(shoot, random)
	}),
	'set-in-out': (shoot, random) => ({
		kind: 'set-in-out',
		clipId: clip(shoot, random),
		inFlicks: random() < 0.5 ? moment(random, 3) : null,
		outFlicks: random() < 0.5 ? moment(random, 10) : null
	}),
	'line-up-by-points': (shoot, random) => ({
		kind: 'line-up-by-points',
		way: pick(POINT_WAYS, random),
		...(random() < 0.7 ? { clipIds: clips(shoot, random, 2) } : {}),
		keepsPlaces: random() < 0.5
	}),
	'place-by-edge': (shoot, random) => ({
		kind: 'place-by-edge',
		clipId: clip(shoot, random),
		ontoClipId: clip(shoot, random),
		way: pick(['in point', 'out point', 'clip start'], random)
	}),
	'place-by-timecode': (shoot, random) => ({
		kind: 'place-by-timecode',
		clipId: withClock(shoot, random),
		lineUpId: lineUpId(shoot, random)
	}),
	'set-air-delay': (shoot, random) => ({
		kind: 'set-air-delay',
		deviceId: device(shoot, random),
		metres: Math.round(random() * 40)
	}),
	'set-air-temperature': (_, random) => ({ kind: 'set-air-temperature', celsius: Math.round(random() * 30) }),
	'correct-drift': (shoot, random) => ({
		kind: 'correct-drift',
		deviceIds: [device(shoot, random)],
		corrects: random() < 0.5
	}),
	'add-marker': (shoot, random) => ({
		kind: 'add-marker',
		lineUpId: lineUpId(shoot, random),
		atFlicks: moment(random),
		name: words(random)
	}),
	'drop-marker': (shoot, random) => ({
		kind: 'drop-marker',
		markerId: pick([...shoot.markers.map((one) => one.id), shoot.id], random)
	}),
	sign: (shoot, random) => ({
		kind: 'sign',
		lineUpId: lineUpId(shoot, random),
		signedBy: words(random),
		signedOn: '2026-05-16'
	}),
	'set-stand-ins': (shoot, random) => ({
		kind: 'set-stand-ins',
		lineUpId: lineUpId(shoot, random),
		standIns: some(shoot.devices, random).map((one) => [{ deviceId: one.id, channel: 0, shiftFlicks: 48 }])
	}),
	'set-mix': (shoot, random) => ({
		kind: 'set-mix',
		lineUpId: lineUpId(shoot, random),
		opensBySpeech: random() < 0.5,
		closedDb: -Math.floor(random() * 40),
		coversGaps: random() < 0.5
	}),
	'add-person': (shoot, random) => ({
		kind: 'add-person',
		id: crypto.randomUUID(),
		name: words(random),
		channels: [{ deviceId: device(shoot, random), channel: Math.floor(random() * 4) }]
	}),
	'name-person': (shoot, random) => ({
		kind: 'name-person',
		personId: person(shoot, random),
		name: words(random)
	}),
	'drop-person': (shoot, random) => ({ kind: 'drop-person', personId: person(shoot, random) }),
	'set-person-channels': (shoot, random) => ({
		kind: 'set-person-channels',
		personId: person(shoot, random),
		channels: [0, 1].map((channel) => ({ deviceId: device(shoot, random), channel }))
	}),
	'correct-speech': (shoot, random) => {
		const inFlicks = moment(random);
		return {
			kind: 'correct-speech',
			lineUpId: lineUpId(shoot, random),
			corrections: [
				{
					personId: person(shoot, random),
					inFlicks,
					outFlicks: inFlicks + 1 + moment(random, 3),
					speaks: random() < 0.5
				}
			]
		};
	},
	'set-master': (shoot, random) => ({
		kind: 'set-master',
		lineUpId: lineUpId(shoot, random),
		channels: some(shoot.devices, random, 0).map(({ id }, channel) => ({ deviceId: id, channel }))
	}),
	call: (shoot, random) => ({
		kind: 'call',
		lineUpId: lineUpId(shoot, random),
		atFlicks: moment(random),
		deviceId: device(shoot, random)
	}),
	'change-shot': (shoot, random) => ({
		kind: 'change-shot',
		lineUpId: lineUpId(shoot, random),
		callId: callId(shoot, random),
		deviceId: device(shoot, random)
	}),
	'move-call': (shoot, random) => ({
		kind: 'move-call',
		lineUpId: lineUpId(shoot, random),
		callId: callId(shoot, random),
		atFlicks: moment(random)
	}),
	'drop-call': (shoot, random) => ({
		kind: 'drop-call',
		lineUpId: lineUpId(shoot, random),
		callId: callId(shoot, random)
	}),
	trim: (shoot, random) => {
		const inFlicks = moment(random, 100);
		return {
			kind: 'trim',
			lineUpId: lineUpId(shoot, random),
			inFlicks,
			outFlicks: inFlicks + FLICKS_PER_SECOND + moment(random, 100)
		};
	},
	'trim-to-all-angles': (shoot, random) => ({ kind: 'trim-to-all-angles', lineUpId: lineUpId(shoot, random) })
};
