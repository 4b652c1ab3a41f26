import type { Clip } from '../../../core/shoot/shoot';
import { rateInWords } from '../../../core/time/rational';
import { clockWords, countWords } from '../../controls/words';

export function pictureWords({ parts }: Clip): string {
	const picture = parts[0]?.picture;
	return picture ? `${picture.width}×${picture.height} · ${rateInWords(picture.rate)}` : 'no picture';
}

export function soundWords({ parts }: Clip): string {
	const sound = parts[0]?.sound;
	return sound ? `${countWords(sound.channels, 'channel')} · ${sound.sampleRate / 1000} kHz` : 'no sound';
}

/** The same in the room of a column. */
export function shortSoundWords({ parts }: Clip): string {
	const sound = parts[0]?.sound;
	return sound ? `${sound.channels} ch · ${sound.sampleRate / 1000} kHz` : 'no sound';
}

export function clockOf(clip: Clip): string {
	return clip.timecode ?? (clip.clockSeconds === undefined ? '–' : clockWords(clip.clockSeconds));
}

export function sceneWords({ scene, take }: Clip): string {
	if (!scene && !take) return '';
	return take ? `${scene || '–'} / ${take}` : scene;
}

/** What its files are joined of, in few words; empty for one plain file. */
export function partsWords({ parts }: Clip): string {
	const channelFiles = parts[0]?.sound?.channelFiles?.length ?? 0;
	if (parts.length > 1) return `${parts.length} files joined`;
	return channelFiles > 1 ? `${channelFiles} files, one take` : '';
}
