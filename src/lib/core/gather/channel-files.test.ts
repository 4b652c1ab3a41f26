import { describe, expect, it } from 'vitest';
import type { MediaFacts } from './media-facts';
import { type ChannelFile, findChannelFiles } from './channel-files';

function wave(path: string, more: Partial<MediaFacts> = {}, channels = 1): ChannelFile {
	const audio = {
		codec: 'pcm_s24le',
		sampleRate: 48_000,
		channels,
		startSeconds: 0,
		channelNames: Array.from({ length: channels }, () => '')
	};
	return {
		id: path,
		path,
		facts: { container: 'wav', durationSeconds: 100, containerStartSeconds: 0, audio, ...more }
	};
}

const takes = (...files: ChannelFile[]) => findChannelFiles(files).map((take) => take.files.map((file) => file.path));

describe('one file for each channel', () => {
	it('finds the channels of a take, in their order, a mix behind them', () => {
		const files = [
			wave('r/T01_Tr10.WAV'),
			wave('r/T01_Tr2.WAV'),
			wave('r/T01_LR.WAV', {}, 2),
			wave('r/T02_Tr2.WAV', { durationSeconds: 50 })
		];
		const [take, ...others] = findChannelFiles(files);
		expect(others).toEqual([]);
		expect(take!.files.map(({ path }) => path)).toEqual(['r/T01_Tr2.WAV', 'r/T01_Tr10.WAV', 'r/T01_LR.WAV']);
		expect(take!.channelNames).toEqual(['Tr2', 'Tr10', 'LR L', 'LR R']);
	});

	it('knows left and right, and what names say themselves', () => {
		expect(takes(wave('a-R.wav'), wave('a-L.wav'))).toEqual([['a-L.wav', 'a-R.wav']]);
		const named = { audio: { ...wave('x').facts.audio!, channelNames: ['Host'] } };
		expect(findChannelFiles([wave('a_ch1.wav', named), wave('a_ch2.wav')])[0]!.channelNames).toEqual(['Host', 'ch2']);
	});

	it('believes a bare number only where a clock or the recorder says that they ran together', () => {
		expect(takes(wave('s_1.wav'), wave('s_2.wav'))).toEqual([]);
		expect(takes(wave('s_1.wav', { clockSeconds: 500 }), wave('s_2.wav', { clockSeconds: 500 }))).toEqual([
			['s_1.wav', 's_2.wav']
		]);
		expect(takes(wave('s_1.wav', { takeId: 'x' }), wave('s_2.wav', { takeId: 'x' }))).toEqual([['s_1.wav', 's_2.wav']]);
	});

	it.each([
		['of other lengths', wave('t_ch2.wav', { durationSeconds: 101 })],
		['begun at another time', wave('t_ch2.wav', { clockSeconds: 4 })],
		['in another folder', wave('u/t_ch2.wav')],
		['of another take', wave('t2_ch2.wav')],
		[
			'with pictures',
			wave('t_ch2.wav', { video: { codec: 'h264', width: 1, height: 1, rate: { num: 25, den: 1 }, startSeconds: 0 } })
		]
	])('leaves apart files %s', (_, other) => {
		expect(takes(wave('t_ch1.wav'), other)).toEqual([]);
	});
});
