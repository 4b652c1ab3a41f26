import type { Coverage, Plan } from '../../core/program/compile';
import { dynamicRangeOf, matrixOf } from '../../core/gather/picture-facts';
import type { Clip, ClipPart, PlacedClip } from '../../core/shoot/clip';
import { courseFrom } from '../../core/time/course';
import { flicksToSeconds, videoFrameToFlicks } from '../../core/time/flicks';
import type { OwnPictures, WallAir, WallFile } from './wall-messages';

/** The pictures of all angles as the wall plays them: each where the plan has them. */
export function wallFiles(placed: readonly PlacedClip[], { pictures }: Coverage): readonly WallFile[] {
	const parts = new Map(placed.flatMap((clip) => clip.parts.map((part) => [part.fileId, part] as const)));
	return [...pictures.values()].flat().flatMap(({ inFlicks, outFlicks, source }): WallFile[] => {
		const part = parts.get(source.fileId)!;
		if (!part.picture || part.isMissing) return [];
		return [
			{
				...pictureFileOf(part),
				deviceId: source.deviceId,
				beginFlicks: inFlicks,
				endFlicks: outFlicks,
				course: courseFrom(source, part.picture.startFlicks)
			}
		];
	});
}

/** One clip's pictures in the clip's own time, wherever it lies. */
export function clipFiles(clip: Clip): readonly WallFile[] {
	return clip.parts.flatMap((part): WallFile[] => {
		if (!part.picture || part.isMissing) return [];
		const firstPictureFlicks = part.offsetFlicks + part.picture.startFlicks;
		return [
			{
				...pictureFileOf(part),
				deviceId: clip.deviceId,
				beginFlicks: firstPictureFlicks,
				endFlicks: part.offsetFlicks + part.durationFlicks,
				course: { startFlicks: firstPictureFlicks, rateFactor: 1 }
			}
		];
	});
}

type PicturedFile = Pick<WallFile, 'fileId' | 'identity' | 'seconds' | 'own'>;

/** A file of a clip, as its pictures are asked for. */
export function pictureFileOf(part: ClipPart): PicturedFile {
	const { fileId, identity, durationFlicks, picture } = part;
	const file = { fileId, identity, seconds: flicksToSeconds(durationFlicks - (picture?.startFlicks ?? 0)) };
	return picture && isPlain(part) ? { ...file, own: ownPictures(picture) } : file;
}

function ownPictures({ ownStartSeconds, rate, width, height, colour }: NonNullable<ClipPart['picture']>): OwnPictures {
	const isBt709 = matrixOf(colour, height) === 'bt709';
	return {
		startSeconds: ownStartSeconds,
		secondsPerPicture: rate.den / rate.num,
		points: width * height,
		colourSpace: {
			primaries: 'bt709',
			transfer: 'bt709',
			matrix: isBt709 ? 'bt709' : 'smpte170m',
			fullRange: colour?.range === 'pc'
		}
	};
}

/** Whether a recording looks as it is meant to when it is just decoded, in a container that the page reads exactly. */
function isPlain({ container, picture }: ClipPart): boolean {
	if (!picture || picture.codec !== 'h264' || !/^(mov|mp4)/.test(container)) return false;
	const isUpright = !picture.rotation && picture.shown.width === 2 * Math.round(picture.width / 2);
	return isUpright && !picture.interlaced && dynamicRangeOf(picture.colour) === 'SDR';
}

/** What the plan has on air, for the wall. */
export function wallAir({ pictures, rate }: Plan): readonly WallAir[] {
	return pictures.map(({ fromFrame, toFrame, shown }) => ({
		inFlicks: videoFrameToFlicks(fromFrame, rate),
		outFlicks: videoFrameToFlicks(toFrame, rate),
		...(shown.kind === 'black' ? {} : { deviceId: shown.source.deviceId }),
		...(shown.kind === 'held' ? { heldFlicks: videoFrameToFlicks(shown.heldFrame, rate) } : {})
	}));
}
