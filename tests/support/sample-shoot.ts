import type { Clip, ClipPart } from '../../src/lib/core/shoot/clip';
import { AS_RECORDED, type MasterChannel, type StoredProgram, USUAL_MIX } from '../../src/lib/core/shoot/decisions';
import type { Device } from '../../src/lib/core/shoot/device';
import type { Placement } from '../../src/lib/core/shoot/placement';
import type { Shoot } from '../../src/lib/core/shoot/shoot';
import { secondsToFlicks } from '../../src/lib/core/time/flicks';

/** A small shoot of invented devices for tests of what is pure. Times are seconds. */
export const LINE_UP = 'line-up-1';

export function sampleDevice(badge: string, kind: Device['kind'] = /\d/.test(badge) ? 'recorder' : 'camera'): Device {
	return {
		id: `device-${badge}`,
		airMetres: 0,
		correctsDrift: true,
		folder: `folder-${badge}`,
		name: `Device ${badge}`,
		badge,
		kind,
		channelNames: [],
		reasons: []
	};
}

export interface SampleClip {
	readonly badge: string;
	readonly start: number;
	readonly length: number;
	readonly ratePpm?: number;
	readonly rate?: { readonly num: number; readonly den: number };
	/** Media time of the first picture. */
	readonly pictureStart?: number;
	readonly channels?: number;
	/** Where its first file begins in its own time; below 0 where the clip goes on in the midst of a file. */
	readonly offset?: number;
	/** Lengths of its files, where it has several. */
	readonly files?: readonly number[];
}

export function sampleClip(sample: SampleClip, index = 0): Clip {
	const camera = !/\d/.test(sample.badge);
	const placement: Placement = {
		lineUpId: LINE_UP,
		startFlicks: secondsToFlicks(sample.start),
		ratePpm: sample.ratePpm ?? 0,
		method: 'audio',
		confidence: 0.999,
		residualSeconds: 0,
		byHand: false,
		measuredRatePpm: sample.ratePpm ?? 0,
		isLocked: false,
		airFlicks: 0
	};
	let offset = sample.offset ?? 0;
	const parts = (sample.files ?? [sample.length]).map((length, part): ClipPart => {
		const offsetFlicks = secondsToFlicks(offset);
		offset += length;
		return {
			fileId: `file-${sample.badge}-${index}-${part}`,
			identity: '0'.repeat(32),
			path: `/cards/folder-${sample.badge}/clip-${index}-${part}.${camera ? 'mp4' : 'wav'}`,
			relativePath: `folder-${sample.badge}/clip-${index}-${part}.${camera ? 'mp4' : 'wav'}`,
			sizeBytes: 1000,
			offsetFlicks,
			durationFlicks: secondsToFlicks(length),
			container: camera ? 'mov' : 'wav',
			sound: {
				codec: 'pcm',
				sampleRate: 48000,
				channels: sample.channels ?? 1,
				streams: 1,
				startFlicks: 0,
				samples: Math.round(length * 48_000)
			},
			...(camera
				? {
						picture: {
							codec: 'h264',
							rate: sample.rate ?? { num: 25, den: 1 },
							width: 640,
							height: 360,
							shown: { width: 640, height: 360 },
							startFlicks: secondsToFlicks(sample.pictureStart ?? 0),
							ownStartSeconds: sample.pictureStart ?? 0,
							isVariableRate: false
						}
					}
				: {})
		};
	});
	return {
		id: `clip-${sample.badge}-${index}`,
		deviceId: `device-${sample.badge}`,
		name: `clip ${sample.badge} ${index}`,
		durationFlicks: secondsToFlicks(sample.length),
		parts,
		shot: '',
		scene: '',
		take: '',
		circled: false,
		note: '',
		placement,
		syncPoints: [],
		sharpSounds: []
	};
}

export function sampleProgram(
	inSeconds: number,
	outSeconds: number,
	calls: readonly (readonly [at: number, badge: string])[]
): StoredProgram {
	return {
		lineUpId: LINE_UP,
		inFlicks: secondsToFlicks(inSeconds),
		outFlicks: secondsToFlicks(outSeconds),
		calls: calls.map(([at, badge], index) => ({
			id: `call-${index}`,
			atFlicks: secondsToFlicks(at),
			deviceId: `device-${badge}`
		}))
	};
}

/** A channel of a master; as recorded but for what is said of it. */
export type SampleChannel = Pick<MasterChannel, 'deviceId' | 'channel'> & Partial<MasterChannel>;

export function sampleShoot(
	clips: readonly SampleClip[],
	{ master = [], ...more }: Partial<Shoot> & { readonly master?: readonly SampleChannel[] } = {}
): Shoot {
	const badges = [...new Set(clips.map((clip) => clip.badge))];
	return {
		id: 'shoot',
		name: 'Sample',
		folder: '/cards',
		revision: 1,
		rate: { num: 25, den: 1 },
		width: 640,
		height: 360,
		mainCameraId: 'device-A',
		devices: badges.map((badge) => sampleDevice(badge)),
		clips: clips.map((clip, index) => sampleClip(clip, index)),
		badFiles: [],
		newFiles: [],
		hasOwnRate: false,
		airCelsius: 20,
		markers: [],
		signatures: [],
		sources: [],
		lineUps: [
			{
				id: LINE_UP,
				referenceDeviceId: 'device-1',
				evidence: [],
				clocks: [],
				master: master.map((one) => ({ ...AS_RECORDED, ...one })),
				standIns: [],
				mix: USUAL_MIX,
				corrections: []
			}
		],
		people: [],
		handOffs: [],
		programs: [],
		...more
	};
}
