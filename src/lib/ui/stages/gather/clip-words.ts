import { dynamicRangeOf } from '../../../core/gather/picture-facts';
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
	return picture ? `${picture.shown.width}×${picture.shown.height} · ${rateInWords(picture.rate)}` : 'no picture';
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

/** What is special about a clip's picture, a line each: how it is brought into the movie follows from it. */
export function pictureNotes(clip: Clip): readonly string[] {
	const picture = clip.parts[0]?.picture;
	if (!picture) return [];
	const range = dynamicRangeOf(picture.colour);
	const isCoded = picture.width !== picture.shown.width || picture.height !== picture.shown.height;
	const { matrix, primaries, transfer } = picture.colour ?? {};
	const tags = [matrix, primaries, transfer].filter(Boolean);
	return [
		...(isCoded ? [`recorded as ${picture.width}×${picture.height}`] : []),
		...(picture.rotation ? [`turned by ${picture.rotation}°`] : []),
		...(picture.interlaced ? [`interlaced, ${picture.interlaced}: shown as whole pictures`] : []),
		...(range === 'SDR' ? [] : [`high dynamic range (${range}): brought down for wall and movie`]),
		...(tags.length > 0
			? [`colour: ${[...new Set(tags)].join(', ')}${picture.colour?.range === 'pc' ? ', full range' : ''}`]
			: []),
		...(picture.isVariableRate ? ['uneven rate'] : [])
	];
}
