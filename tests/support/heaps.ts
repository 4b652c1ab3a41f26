import type { MediaFacts } from '../../src/lib/core/gather/media-facts';
import type { SortableFile } from '../../src/lib/core/gather/sort-devices';

/** Files as they lie when cards were copied in a hurry, with the device each is of. */
export interface Heap {
	readonly name: string;
	readonly files: readonly (SortableFile & { readonly truth: string })[];
}

interface Shooting {
	/** Name of a clip's file, from its number in this device's count. */
	readonly path: (index: number) => string;
	readonly truth: string;
	readonly clips: number;
	/** Facts of all its files. */
	readonly facts?: Partial<MediaFacts>;
	/** Clock time of the first clip; nothing where the device tells none. */
	readonly from?: string;
	readonly seconds?: number;
	readonly pauseSeconds?: number;
	/** Writes the date of the end. */
	readonly datesTheEnd?: boolean;
}

const HD25 = { codec: 'h264', width: 1920, height: 1080, rate: { num: 25, den: 1 }, startSeconds: 0 };
const UHD25 = { codec: 'hevc', width: 3840, height: 2160, rate: { num: 25, den: 1 }, startSeconds: 0 };
const HD100 = { ...HD25, rate: { num: 100, den: 1 } };
const AAC = { codec: 'aac', sampleRate: 48_000, channels: 2, startSeconds: 0, channelNames: ['', ''] };
const PCM = { codec: 'pcm_s24le', sampleRate: 48_000, channels: 4, startSeconds: 0, channelNames: ['', '', '', ''] };

const MP4: Partial<MediaFacts> = { container: 'mov,mp4,m4a,3gp,3g2,mj2', video: HD25, audio: AAC };
const MTS: Partial<MediaFacts> = { container: 'mpegts', video: HD25, audio: { ...AAC, codec: 'ac3' } };
const WAV: Partial<MediaFacts> = { container: 'wav', audio: PCM };
const MODEL = (model: string, serial?: string) => ({ make: 'Example', model, ...(serial ? { serial } : {}) });

function shot({ path, truth, clips, facts = MP4, from, seconds = 300, pauseSeconds = 60, datesTheEnd }: Shooting) {
	return Array.from({ length: clips }, (_, index) => {
		const durationSeconds = seconds + ((index * 37) % 50);
		const at = from === undefined ? undefined : Date.parse(from) / 1000 + index * (seconds + 50 + pauseSeconds);
		const written = at === undefined ? undefined : at + (datesTheEnd ? durationSeconds : 0);
		return {
			id: `${truth} ${path(index)}`,
			path: path(index),
			truth,
			facts: {
				container: 'unknown',
				containerStartSeconds: 0,
				durationSeconds,
				...facts,
				...(written === undefined ? {} : { creationTime: new Date(written * 1000).toISOString() })
			}
		};
	});
}

const four = (number: number) => `${number}`.padStart(4, '0');
const MORNING = '2026-05-16T09:00:00Z';

/** Invented shoots whose names follow DCF (JEITA CP-3461), AVCHD and what is common practice. */
export const HEAPS: readonly Heap[] = [
	{
		name: 'one folder for each device',
		files: [
			...shot({ truth: 'a', path: (i) => `camera a/MVI_${four(i + 12)}.MP4`, clips: 5, from: MORNING }),
			...shot({ truth: 'b', path: (i) => `camera b/MVI_${four(i + 12)}.MP4`, clips: 4, from: MORNING }),
			...shot({ truth: 'r', path: (i) => `recorder/T${four(i + 1)}.WAV`, clips: 3, facts: WAV })
		]
	},
	{
		name: 'whole cards with their structures, nothing told of time',
		files: [
			...shot({ truth: 'a', path: (i) => `wide/PRIVATE/AVCHD/BDMV/STREAM/0000${i}.MTS`, clips: 6, facts: MTS }),
			...shot({ truth: 'b', path: (i) => `close/PRIVATE/AVCHD/BDMV/STREAM/0000${i}.MTS`, clips: 5, facts: MTS }),
			...shot({
				truth: 'c',
				path: (i) => `photo camera/DCIM/10${i > 2 ? 1 : 0}ABCDE/DSC_${four(i + 97)}.MOV`,
				clips: 6
			})
		]
	},
	{
		name: 'one heap of three makers',
		files: [
			...shot({
				truth: 'a',
				path: (i) => `C${four(i + 1)}.MP4`,
				clips: 8,
				from: MORNING,
				facts: { ...MP4, ...MODEL('One') }
			}),
			...shot({
				truth: 'b',
				path: (i) => `MVI_${four(i + 410)}.MP4`,
				clips: 6,
				from: MORNING,
				facts: { ...MP4, ...MODEL('Two') }
			}),
			...shot({ truth: 'c', path: (i) => `0000${i}.MTS`, clips: 4, from: MORNING, facts: MTS }),
			...shot({ truth: 'r', path: (i) => `T${four(i + 1)}.WAV`, clips: 4, from: MORNING, facts: WAV })
		]
	},
	{
		name: 'two cameras of one model in one heap, told apart by their times',
		files: [
			...shot({
				truth: 'a',
				path: (i) => `DSC_${four(i + 412)}.MOV`,
				clips: 9,
				from: MORNING,
				facts: { ...MP4, ...MODEL('One') }
			}),
			...shot({
				truth: 'b',
				path: (i) => `DSC_${four(i + 530)}.MOV`,
				clips: 8,
				from: '2026-05-16T09:01:10Z',
				facts: { ...MP4, ...MODEL('One') }
			})
		]
	},
	{
		name: 'two cameras of one model with one count, the copies marked by the computer',
		files: [
			...shot({
				truth: 'a',
				path: (i) => `C${four(i + 1)}.MP4`,
				clips: 6,
				from: MORNING,
				facts: { ...MP4, ...MODEL('One') }
			}),
			...shot({
				truth: 'b',
				path: (i) => `C${four(i + 1)} (1).MP4`,
				clips: 6,
				from: '2026-05-16T09:00:20Z',
				facts: { ...MP4, ...MODEL('One') }
			})
		]
	},
	{
		name: 'two cameras of one model, told apart by serial numbers only',
		files: [
			...shot({
				truth: 'a',
				path: (i) => `clip_${four(i + 1)}.mxf`,
				clips: 5,
				facts: { container: 'mxf', video: UHD25, audio: PCM, ...MODEL('Large', '1001') }
			}),
			...shot({
				truth: 'b',
				path: (i) => `clip_${four(i + 6)}.mxf`,
				clips: 5,
				facts: { container: 'mxf', video: UHD25, audio: PCM, ...MODEL('Large', '1002') }
			})
		]
	},
	{
		name: 'letters for cameras, reels that go on',
		files: [
			...shot({
				truth: 'a',
				path: (i) => `A00${1 + Math.floor(i / 4)}C${`${(i % 4) + 1}`.padStart(3, '0')}_260516_R${'ABCD'[i % 4]}9Z.mov`,
				clips: 8,
				from: MORNING
			}),
			...shot({
				truth: 'b',
				path: (i) => `B001C${`${i + 1}`.padStart(3, '0')}_260516_R${'KLMN'[i % 4]}2X.mov`,
				clips: 7,
				from: '2026-05-16T09:00:40Z'
			})
		]
	},
	{
		name: 'a camera that changes its rate and size, beside another',
		files: [
			...shot({
				truth: 'a',
				path: (i) => `C${four(i + 1)}.MP4`,
				clips: 4,
				from: MORNING,
				facts: { ...MP4, video: UHD25 }
			}),
			...shot({
				truth: 'a',
				path: (i) => `C${four(i + 5)}.MP4`,
				clips: 2,
				from: '2026-05-16T10:00:00Z',
				seconds: 20,
				facts: { ...MP4, video: HD100 }
			}),
			...shot({
				truth: 'a',
				path: (i) => `C${four(i + 7)}.MP4`,
				clips: 3,
				from: '2026-05-16T10:20:00Z',
				facts: { ...MP4, video: UHD25 }
			}),
			...shot({
				truth: 'b',
				path: (i) => `P10${four(i + 210)}.MP4`,
				clips: 8,
				from: MORNING,
				facts: { ...MP4, video: UHD25 }
			})
		]
	},
	{
		name: 'telephones that name files by date and time',
		files: [
			...shot({
				truth: 'a',
				path: (i) => `20260516_09${`${10 + 7 * i}`}02.mp4`,
				clips: 6,
				facts: { ...MP4, ...MODEL('Phone') }
			}),
			...shot({
				truth: 'b',
				path: (i) => `VID_20260516_09${`${11 + 7 * i}`}40.mp4`,
				clips: 5,
				facts: { ...MP4, ...MODEL('Other') }
			}),
			...shot({
				truth: 'r',
				path: (i) => `memo ${four(i + 1)}.m4a`,
				clips: 2,
				facts: { container: 'mov,mp4,m4a,3gp,3g2,mj2', audio: AAC }
			})
		]
	},
	{
		name: 'single clips named by hand in one heap',
		files: [
			...shot({ truth: 'a', path: () => 'cam 1.mp4', clips: 1 }),
			...shot({ truth: 'b', path: () => 'cam 2.mp4', clips: 1 }),
			...shot({ truth: 'c', path: () => 'cam 3.mp4', clips: 1 }),
			...shot({ truth: 'r', path: () => 'zaal.wav', clips: 1, facts: WAV }),
			...shot({
				truth: 's',
				path: () => 'host lav.wav',
				clips: 1,
				facts: { ...WAV, audio: { ...PCM, channels: 1, channelNames: [''] } }
			})
		]
	},
	{
		name: 'two days, the same devices each',
		files: [
			...shot({ truth: 'a', path: (i) => `day 1/cam wide/C${four(i + 1)}.MP4`, clips: 4, from: MORNING }),
			...shot({ truth: 'b', path: (i) => `day 1/cam host/C${four(i + 1)}.MP4`, clips: 4, from: MORNING }),
			...shot({
				truth: 'a',
				path: (i) => `day 2/cam wide/C${four(i + 1)}.MP4`,
				clips: 3,
				from: '2026-05-17T09:00:00Z'
			}),
			...shot({
				truth: 'b',
				path: (i) => `day 2/cam host/C${four(i + 1)}.MP4`,
				clips: 3,
				from: '2026-05-17T09:00:00Z'
			}),
			...shot({
				truth: 'r',
				path: (i) => `day ${i < 2 ? 1 : 2}/audio/260${i < 2 ? 516 : 517}_00${i + 1}.WAV`,
				clips: 4,
				facts: WAV
			})
		]
	},
	{
		name: 'two cards of a camera in its folder, with one count begun anew',
		files: [
			...shot({
				truth: 'a',
				path: (i) => `camera a/card ${i < 3 ? 1 : 2}/C${four((i % 3) + 1)}.MP4`,
				clips: 6,
				from: MORNING
			}),
			...shot({
				truth: 'b',
				path: (i) => `camera b/card 1/C${four(i + 1)}.MP4`,
				clips: 6,
				from: MORNING,
				datesTheEnd: true
			})
		]
	},
	{
		name: 'all cameras in one folder, all recorders in another',
		files: [
			...shot({ truth: 'a', path: (i) => `video/A_${four(i + 1)}.MOV`, clips: 5, facts: { ...MP4, video: UHD25 } }),
			...shot({ truth: 'b', path: (i) => `video/B_${four(i + 1)}.MOV`, clips: 5, facts: { ...MP4, video: UHD25 } }),
			...shot({ truth: 'c', path: (i) => `video/GH01${four(i + 34)}.MP4`, clips: 3, facts: MP4 }),
			...shot({ truth: 'r', path: (i) => `sound/T${four(i + 1)}.WAV`, clips: 4, facts: WAV }),
			...shot({
				truth: 's',
				path: (i) => `sound/STE-00${i}.wav`,
				clips: 2,
				facts: { ...WAV, audio: { ...PCM, codec: 'pcm_s16le', channels: 2 } }
			})
		]
	},
	{
		name: 'the clock of a camera was never set',
		files: [
			...shot({ truth: 'a', path: (i) => `MOV0${four(i + 1)}.MOV`, clips: 6, from: '1970-01-01T00:00:10Z' }),
			...shot({
				truth: 'b',
				path: (i) => `C${four(i + 31)}.MP4`,
				clips: 6,
				from: MORNING,
				facts: { ...MP4, video: UHD25 }
			})
		]
	},
	{
		name: 'one long recording in chapters that all carry its first date',
		files: [
			...shot({ truth: 'a', path: (i) => `AB0${i + 1}0117.MP4`, clips: 4, from: MORNING, pauseSeconds: -350 }),
			...shot({ truth: 'b', path: (i) => `MVI_${four(i + 1)}.MP4`, clips: 4, from: MORNING })
		]
	}
];

export { AAC, MP4, PCM, shot, WAV };
