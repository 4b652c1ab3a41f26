import { describe, expect, it } from 'vitest';
import { comparePaths } from './compare-paths';
import { followersOf, joinSpanned, type JoinableFile } from './spanned';

function wave(path: string, clockSeconds: number | undefined, durationSeconds: number, channels = 4): JoinableFile {
	const audio = { codec: 'pcm_s24le', sampleRate: 48000, channels, startSeconds: 0, channelNames: [] };
	return {
		id: path,
		device: path.split('/')[0]!,
		path,
		facts: {
			container: 'wav',
			durationSeconds,
			containerStartSeconds: 0,
			audio,
			...(clockSeconds === undefined ? {} : { clockSeconds })
		}
	};
}

describe('joining split recordings', () => {
	const join = (...files: JoinableFile[]) =>
		joinSpanned(files).map((one) => one.parts.map((part) => [part.file.path, part.offsetSeconds]));

	it('joins to the sample where counter and clock go on', () => {
		expect(
			join(wave('r/T01_0002.WAV', 1100, 50), wave('r/T01_0001.WAV', 1000, 100), wave('r/T01_0003.WAV', 1150, 20))
		).toEqual([
			[
				['r/T01_0001.WAV', 0],
				['r/T01_0002.WAV', 100],
				['r/T01_0003.WAV', 150]
			]
		]);
	});

	it('lays what a seam repeats or drops where the sample clock says', () => {
		const repeated = 1100 - 1024 / 48000;
		expect(join(wave('r/1.WAV', 1000, 100), wave('r/2.WAV', repeated, 5))).toEqual([
			[
				['r/1.WAV', 0],
				['r/2.WAV', expect.closeTo(100 - 1024 / 48000, 9)]
			]
		]);
		expect(join(wave('r/1.WAV', 1000, 100), wave('r/2.WAV', 1100.25, 5))[0]![1]![1]).toBeCloseTo(100.25, 9);
	});

	it('proposes what sound must confirm where there is no clock', () => {
		const recordings = joinSpanned([
			wave('r/1.WAV', undefined, 100),
			wave('r/2.WAV', undefined, 5),
			wave('r/4.WAV', undefined, 5)
		]);
		expect(followersOf(recordings)).toEqual([{ a: 0, b: 1 }]);
	});

	it('goes over midnight', () => {
		expect(join(wave('r/1.WAV', 86_390, 10), wave('r/2.WAV', 0, 10))).toHaveLength(1);
	});

	it.each([
		['a gap of two seconds', wave('r/2.WAV', 1102, 5)],
		['another format', wave('r/2.WAV', 1100, 5, 2)],
		['a counter that leaps', wave('r/3.WAV', 1100, 5)],
		['another device', wave('s/2.WAV', 1100, 5)],
		['no clock', wave('r/2.WAV', undefined, 5)]
	])('leaves apart: %s', (_, next) => {
		expect(join(wave('r/1.WAV', 1000, 100), next)).toHaveLength(2);
	});

	it('joins chapters whose number stands before that of the recording', () => {
		expect(
			join(
				wave('r/AB010017.WAV', 1000, 100),
				wave('r/AB010018.WAV', 2000, 10),
				wave('r/AB020017.WAV', 1100, 50),
				wave('r/AB030017.WAV', 1150, 5)
			)
		).toEqual([
			[
				['r/AB010017.WAV', 0],
				['r/AB020017.WAV', 100],
				['r/AB030017.WAV', 150]
			],
			[['r/AB010018.WAV', 0]]
		]);
	});

	it('sorts counters as numbers', () => {
		expect(['c10', 'c2', 'c1'].sort(comparePaths)).toEqual(['c1', 'c2', 'c10']);
	});
});
