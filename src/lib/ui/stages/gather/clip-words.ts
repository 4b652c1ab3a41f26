import type { Clip, ClipPart } from '../../../core/shoot/clip';
import { rateInWords } from '../../../core/time/rational';
import { clockWords, countWords } from '../../controls/words';

/** Anything that files tell something of. */
type Told = Pick<Clip, 'timecode' | 'clockSeconds'> & { readonly parts: readonly ClipPart[] };

/** Of several files, so that it can be taken apart. */
export function isJoined({ parts }: Told): boolean {
	return parts.length > 1 || (parts[0]?.sound?.channelFiles?.length ?? 0) > 1;
}

export function pictureWords({ parts }: Told): string {
	const picture = parts[0]?.picture;
	return picture ? `${picture.width}×${picture.height} · ${rateInWords(picture.rate)}` : 'no picture';
}

export function soundWords({ parts }: Told): string {
	const sound = parts[0]?.sound;
	return sound ? `${countWords(sound.channels, 'channel')} · ${sound.sampleRate / 1000} kHz` : 'no sound';
}

/** The same in the room of a column. */
export function shortSoundWords({ parts }: Told): string {
	const sound = parts[0]?.sound;
	return sound ? `${sound.channels} ch · ${sound.sampleRate / 1000} kHz` : 'no sound';
}

export function clockOf(clip: Told): string {
	return clip.timecode ?? (clip.clockSeconds === undefined ? '–' : clockWords(clip.clockSeconds));
}

export function sceneWords({ scene, shot, take }: Clip): string {
	const place = [scene, shot].filter(Boolean).join(' ');
	if (!place && !take) return '';
	return take ? `${place || '–'} / ${take}` : place;
}

/** What its files are joined of, in few words; empty for one plain file. */
export function partsWords({ parts }: Clip): string {
	const channelFiles = parts[0]?.sound?.channelFiles?.length ?? 0;
	if (parts.length > 1) return `${parts.length} files joined`;
	return channelFiles > 1 ? `${channelFiles} files, one take` : '';
}
