/**
 * "An evening about the wooden ferry": who sits where, who says what and when, and where each device stood.
 * All of it invented. Places are in metres: x to the right, y up, z away from the audience; the stage's edge is z = 0.
 * Times are seconds of the evening's own clock.
 */

export const EVENING_SECONDS = 236;
export const SAMPLE_RATE = 48_000;

export interface Place {
	readonly x: number;
	readonly y: number;
	readonly z: number;
}

export type PersonKey = 'marit' | 'jonas' | 'odile';

export interface Person {
	readonly key: PersonKey;
	readonly name: string;
	readonly role: 'host' | 'guest';
	readonly voice: string;
	readonly pitch: number;
	readonly wordsPerMinute: number;
	readonly seat: Place;
	readonly coat: string;
	readonly hair: string;
	readonly skin: string;
}

export const PEOPLE: readonly Person[] = [
	{
		key: 'marit',
		name: 'Marit Halvorsen',
		role: 'host',
		voice: 'en-gb-x-rp+f2',
		pitch: 52,
		wordsPerMinute: 138,
		seat: { x: -1.5, y: 0, z: 1.2 },
		coat: '#b5532f',
		hair: '#3a2318',
		skin: '#e2b28e'
	},
	{
		key: 'jonas',
		name: 'Jonas Beck',
		role: 'guest',
		voice: 'en-gb-scotland+m3',
		pitch: 34,
		wordsPerMinute: 130,
		seat: { x: 0.5, y: 0, z: 1.4 },
		coat: '#2f5d73',
		hair: '#a9a39a',
		skin: '#d9a47e'
	},
	{
		key: 'odile',
		name: 'Odile Renard',
		role: 'guest',
		voice: 'en-us+f4',
		pitch: 64,
		wordsPerMinute: 146,
		seat: { x: 1.7, y: 0, z: 1.1 },
		coat: '#6f7f3a',
		hair: '#1d1b1f',
		skin: '#a8734f'
	}
];

export interface Line {
	readonly who: PersonKey;
	/** Seconds after the end of the line before; negative where people talk over each other. */
	readonly pause: number;
	readonly text: string;
}

/** The conversation; it begins at TALK_BEGINS. */
export const LINES: readonly Line[] = [
	{
		who: 'marit',
		pause: 0,
		text: 'Good evening, and welcome to the boathouse. Tonight is about one boat: the wooden ferry, which carried this valley across the lake for eighty one years.'
	},
	{
		who: 'marit',
		pause: 0.5,
		text: 'With me are Jonas Beck, who was her last engineer, and Odile Renard, who is putting her back together, plank by plank.'
	},
	{
		who: 'jonas',
		pause: 0.4,
		text: 'Good evening. It is strange to sit so close to the water and not hear an engine.'
	},
	{ who: 'odile', pause: -0.3, text: 'You will hear it again, I promise you that.' },
	{ who: 'marit', pause: 0.7, text: 'Jonas, take us back. What did a morning on the ferry sound like?' },
	{
		who: 'jonas',
		pause: 0.6,
		text: 'First the rope, wet, on the bollard. Then the bell, twice. Then the old diesel, which never liked the cold, and coughed like my grandfather.'
	},
	{ who: 'odile', pause: 0.2, text: 'And the planks. Everybody forgets the planks. They sing when a cart rolls on.' },
	{ who: 'jonas', pause: -0.5, text: 'They do! They sing in two notes.' },
	{ who: 'marit', pause: 0.8, text: 'Odile, when you first saw her on the slipway, what did you think?' },
	{
		who: 'odile',
		pause: 0.5,
		text: 'Honestly? I thought, this is a garden. There were ferns in the wheelhouse, and a family of ducks under the bench.'
	},
	{ who: 'marit', pause: 0.9, text: 'And you said yes all the same.' },
	{ who: 'odile', pause: 0.2, text: 'I said yes to the ducks. The boat came with them.' },
	{
		who: 'jonas',
		pause: 1.6,
		text: 'I should explain about the oak. The frames are oak from the north shore, cut in winter, and they are as hard today as on the first day.'
	},
	{ who: 'odile', pause: 0.3, text: 'Seven of them. The other thirty four I had to make new.' },
	{ who: 'marit', pause: -0.2, text: 'Thirty four?' },
	{
		who: 'odile',
		pause: 0.3,
		text: 'Thirty four. Steamed, bent, clamped, and then you wait, and you hope that nobody slams the door.'
	},
	{
		who: 'marit',
		pause: 1.0,
		text: 'There is a story about the winter of the long ice. Was the ferry really frozen in, half way across?'
	},
	{
		who: 'jonas',
		pause: 0.4,
		text: 'For eleven days. The baker walked out over the ice each morning with bread, and the postman refused, because the ferry was not an address.'
	},
	{
		who: 'odile',
		pause: 1.4,
		text: 'In the log book there is a single line for those days. It says: no change, good soup.'
	},
	{ who: 'marit', pause: 1.5, text: 'Good soup. We should have that painted on the bow.' },
	{
		who: 'jonas',
		pause: 0.3,
		text: 'There was a lamp as well, on the mast, and the children on the far side used to count how often it blinked.'
	},
	{
		who: 'odile',
		pause: 0.4,
		text: 'I found that lamp. It was under the floor, wrapped in a newspaper, and the glass is whole.'
	},
	{ who: 'marit', pause: 0.6, text: 'When will she float? People in the third row have brought their own cushions.' },
	{
		who: 'odile',
		pause: 0.5,
		text: 'In May, if the pitch dries. In June, if Jonas keeps talking to the engine instead of cleaning it.'
	},
	{ who: 'jonas', pause: -0.4, text: 'It listens better than you do!' },
	{
		who: 'marit',
		pause: 1.3,
		text: 'Then let us end with the bell. Thank you, Jonas. Thank you, Odile. And thank you all for coming out over the wet grass tonight.'
	}
];

export const REHEARSAL_LINES: readonly Line[] = [
	{
		who: 'marit',
		pause: 0,
		text: 'One, two, three. This is only the rehearsal. Can somebody turn that lantern a little to the left, please?'
	},
	{
		who: 'jonas',
		pause: 0.5,
		text: 'My chair is lower than yours. I look like a schoolboy who has lost his homework.'
	},
	{
		who: 'odile',
		pause: 0.4,
		text: 'Tomorrow I will bring the wooden model, and we can put it on the table between us.'
	},
	{ who: 'marit', pause: 0.6, text: 'Lovely. Then we count to ten, and we go home before the rain.' }
];

export const CLAP_TIMES: readonly number[] = [6, 230.5];
export const MUSIC = { begins: 8, ends: 28 } as const;
export const TALK_BEGINS = 29.5;
/** Moments of laughter, as indexes of the line they follow. */
export const LAUGHTER_AFTER_LINE: readonly number[] = [11, 15, 17, 18, 19, 24];
export const APPLAUSE = { begins: 218, ends: 228 } as const;
/** Metres above the floor. */
export const MOUTH_HEIGHT = 1.22;
export const MUSICIAN: Place = { x: -2.6, y: 1.4, z: 0.3 };
export const CLAPPER: Place = { x: -1.4, y: 1.15, z: 0.95 };
/** Somebody crosses in front of camera A. */
export const WALKER = { begins: 96, ends: 103 } as const;

export interface CameraView {
	readonly place: Place;
	/** What the lens points at. */
	readonly aim: Place;
	/** Width of the picture over the distance: small is a long lens. */
	readonly fieldOfView: number;
	readonly darkness: number;
}

export interface ClipPlan {
	readonly path: string;
	/** Number in the edge code; one for each file with picture. */
	readonly edgeFile: number;
	/** The evening's time at the clip's media time 0. */
	readonly startSeconds: number;
	readonly mediaSeconds: number;
}

export interface DevicePlan {
	readonly folder: string;
	/** How much longer than the evening's second this device's second is, in millionths. */
	readonly ratePpm: number;
	readonly clips: readonly ClipPlan[];
	readonly view?: CameraView;
	readonly pictureRate?: { readonly num: number; readonly den: number };
	readonly size?: { readonly width: number; readonly height: number };
	/** Places of the microphones, one a channel; none for a device without sound. */
	readonly microphones: readonly (Place & {
		readonly closeTo?: PersonKey;
		readonly gainDb: number;
		readonly noiseDb: number;
	})[];
}

const CAMERA_A: Place = { x: 0.1, y: 1.9, z: -6.2 };
const CAMERA_B: Place = { x: 0.9, y: 1.5, z: -3 };
const CAMERA_C: Place = { x: -1.4, y: 1.5, z: -3.1 };
const CAMERA_D: Place = { x: -3.2, y: 1.6, z: -1.6 };
const CAMERA_E: Place = { x: 4.4, y: 3.1, z: -3.4 };

export const DEVICES: readonly DevicePlan[] = [
	{
		folder: 'camera-a',
		ratePpm: 9,
		pictureRate: { num: 25, den: 1 },
		size: { width: 640, height: 360 },
		view: { place: CAMERA_A, aim: { x: 0.1, y: 1.15, z: 1 }, fieldOfView: 0.98, darkness: 0 },
		clips: [{ path: 'camera-a/A001_C001.mp4', edgeFile: 1, startSeconds: 2.137, mediaSeconds: 231 }],
		microphones: [{ ...CAMERA_A, gainDb: 1, noiseDb: -58 }]
	},
	{
		folder: 'camera-b',
		ratePpm: -14,
		pictureRate: { num: 25, den: 1 },
		size: { width: 640, height: 360 },
		view: { place: CAMERA_B, aim: { x: -1.5, y: 1.25, z: 1.2 }, fieldOfView: 0.42, darkness: 0 },
		clips: [{ path: 'camera-b/B001_C001.mov', edgeFile: 2, startSeconds: 0.871, mediaSeconds: 234 }],
		microphones: [{ ...CAMERA_B, gainDb: 0, noiseDb: -54 }]
	},
	{
		folder: 'camera-c',
		ratePpm: 62,
		pictureRate: { num: 30000, den: 1001 },
		size: { width: 640, height: 360 },
		view: { place: CAMERA_C, aim: { x: 1.1, y: 1.25, z: 1.25 }, fieldOfView: 0.62, darkness: 0.62 },
		clips: [{ path: 'camera-c/CLIP0042.MP4', edgeFile: 3, startSeconds: 3.405, mediaSeconds: 230 }],
		microphones: [{ ...CAMERA_C, gainDb: 1, noiseDb: -52 }]
	},
	{
		folder: 'camera-d',
		ratePpm: -23,
		pictureRate: { num: 30000, den: 1001 },
		size: { width: 640, height: 360 },
		view: { place: CAMERA_D, aim: { x: 0, y: 1.1, z: 1.2 }, fieldOfView: 0.75, darkness: 0.08 },
		clips: [
			{ path: 'camera-d/00017.MTS', edgeFile: 8, startSeconds: 4.2, mediaSeconds: 12.5 },
			{ path: 'camera-d/00018.MTS', edgeFile: 9, startSeconds: 41.33, mediaSeconds: 21 },
			{ path: 'camera-d/00019.MTS', edgeFile: 10, startSeconds: 78.917, mediaSeconds: 15.2 },
			{ path: 'camera-d/00020.MTS', edgeFile: 11, startSeconds: 120.05, mediaSeconds: 18 },
			{ path: 'camera-d/00021.MTS', edgeFile: 12, startSeconds: 163.7, mediaSeconds: 9.6 },
			{ path: 'camera-d/00022.MTS', edgeFile: 13, startSeconds: 201.25, mediaSeconds: 31 }
		],
		microphones: [{ ...CAMERA_D, gainDb: 3, noiseDb: -50 }]
	},
	{
		folder: 'camera-e',
		ratePpm: 31,
		pictureRate: { num: 24000, den: 1001 },
		size: { width: 640, height: 360 },
		view: { place: CAMERA_E, aim: { x: -0.3, y: 0.5, z: 0.2 }, fieldOfView: 0.95, darkness: 0.1 },
		clips: [{ path: 'camera-e/gallery.mp4', edgeFile: 5, startSeconds: 1.5, mediaSeconds: 232.4 }],
		microphones: []
	},
	{
		folder: 'recorder-1',
		ratePpm: 0,
		clips: [
			{ path: 'recorder-1/FERRY_T01_0001.WAV', edgeFile: 0, startSeconds: 0.4, mediaSeconds: 128 },
			{ path: 'recorder-1/FERRY_T01_0002.WAV', edgeFile: 0, startSeconds: 128.4, mediaSeconds: 107 }
		],
		microphones: [
			{ x: -1.5, y: 1.05, z: 1.02, closeTo: 'marit', gainDb: -3, noiseDb: -66 },
			{ x: 0.5, y: 1.05, z: 1.22, closeTo: 'jonas', gainDb: -2, noiseDb: -66 },
			{ x: 1.7, y: 1.05, z: 0.92, closeTo: 'odile', gainDb: -4, noiseDb: -66 },
			{ x: 0, y: 2.6, z: -0.6, gainDb: 2, noiseDb: -60 }
		]
	},
	{
		folder: 'recorder-2',
		ratePpm: -45,
		clips: [{ path: 'recorder-2/REC_0007.MP3', edgeFile: 0, startSeconds: 3.02, mediaSeconds: 229 }],
		microphones: [
			{ x: 0.02, y: 0.8, z: 0.75, gainDb: -5, noiseDb: -57 },
			{ x: 0.18, y: 0.8, z: 0.75, gainDb: -5, noiseDb: -57 }
		]
	},
	{
		folder: 'recorder-3',
		ratePpm: 18,
		clips: [{ path: 'recorder-3/New memo 14.m4a', edgeFile: 0, startSeconds: 12.66, mediaSeconds: 210 }],
		microphones: [{ x: 1.9, y: 0.9, z: -2.8, gainDb: 3, noiseDb: -46 }]
	}
];

/** The clip of the day before, lying among camera B's. */
export const REHEARSAL = { path: 'camera-b/B001_C000.mov', edgeFile: 14, mediaSeconds: 24 } as const;

/** What stands for "the truth": where a clip lies and how late its sound comes because of the air. */
export function clockRateFactor(device: DevicePlan): number {
	return 1 + device.ratePpm * 1e-6;
}
