import { asPicture, asSound } from '../shoot/air-delay';
import { type ClipPart, partAt } from '../shoot/clip';
import type { MasterChannel, StoredProgram } from '../shoot/decisions';
import { masterOf, clipAt, placedClips } from '../shoot/lookup';
import { toMedia, toTimeline } from '../shoot/placement';
import { type PlacedClip, placedEnd } from '../shoot/clip';
import type { Shoot } from '../shoot/shoot';
import { flicksToVideoFrame, videoFrameToFlicks } from '../time/flicks';
import { anglesOf, shotsOf } from './program';

/** A run of frames of the program that come from one file, or from none. */
export interface PicturePiece {
	/** Frames of the line-up, `[fromFrame, toFrame)`. */
	readonly fromFrame: number;
	readonly toFrame: number;
	/** The angle that was called. */
	readonly calledDeviceId: string;
	/** Nothing where no camera has a picture. */
	readonly source?: FileSource;
	/** Where no camera has one: the file whose nearest picture is held, so that nothing is black. */
	readonly holds?: FileSource;
}

/** How a file's own time becomes the line-up's: `timeline = startFlicks + fileTime * rateFactor`. */
export interface FileSource {
	readonly fileId: string;
	readonly deviceId: string;
	/** Where the file's media time 0 lies on the line-up. */
	readonly startFlicks: number;
	readonly rateFactor: number;
}

/** A stretch of one file's sound on the line-up, with the channels of it that are heard. */
export interface SoundPiece {
	readonly source: FileSource;
	readonly inFlicks: number;
	readonly outFlicks: number;
	readonly channels: readonly { readonly channel: number; readonly gainDb: number; readonly pan: number }[];
}

export interface RenderPlan {
	readonly fromFrame: number;
	readonly toFrame: number;
	readonly pictures: readonly PicturePiece[];
	readonly sounds: readonly SoundPiece[];
	/** Frames for which another angle stands in, because the called one has no picture. */
	readonly stoodInFrames: number;
	/** Frames for which no camera has a picture, and the one before (or after) is held. */
	readonly heldFrames: number;
	/** Frames that stay black: only where the whole program has no picture at all. */
	readonly blackFrames: number;
}

/**
 * The one plan that feeds the renderer and the exchange files.
 * Where the called angle has no picture, the main camera stands in, else the first camera that has one.
 */
export function renderPlan(shoot: Shoot, program: StoredProgram): RenderPlan {
	const placed = placedClips(shoot, program.lineUpId);
	const clips = placed.map(asPicture);
	const angles = anglesOf(shoot, program.lineUpId);
	const standIns = [...angles].sort((a, b) => Number(b === shoot.mainCameraId) - Number(a === shoot.mainCameraId));
	const pictures: PicturePiece[] = [];
	for (const shot of shotsOf(program)) {
		const end = flicksToVideoFrame(shot.outFlicks, shoot.rate);
		let frame = flicksToVideoFrame(shot.inFlicks, shoot.rate);
		while (frame < end) {
			const piece = pieceFrom(frame, end, shot.deviceId, standIns, clips, shoot);
			pictures.push(piece);
			frame = piece.toFrame;
		}
	}
	const held = withHolds(pictures);
	const count = (pieces: readonly PicturePiece[]) =>
		pieces.reduce((sum, piece) => sum + piece.toFrame - piece.fromFrame, 0);
	return {
		fromFrame: flicksToVideoFrame(program.inFlicks, shoot.rate),
		toFrame: flicksToVideoFrame(program.outFlicks, shoot.rate),
		pictures: held,
		sounds: soundPieces(placed, masterOf(shoot, program.lineUpId), program.inFlicks, program.outFlicks),
		stoodInFrames: count(pictures.filter((piece) => piece.source && piece.source.deviceId !== piece.calledDeviceId)),
		heldFrames: count(held.filter((piece) => piece.holds)),
		blackFrames: count(held.filter((piece) => !piece.source && !piece.holds))
	};
}

/** Gives pieces without a picture the one before them to hold; at the beginning the one after. */
function withHolds(pictures: readonly PicturePiece[]): readonly PicturePiece[] {
	return pictures.map((piece, index) => {
		if (piece.source) return piece;
		const near =
			pictures.slice(0, index).findLast((one) => one.source) ?? pictures.slice(index).find((one) => one.source);
		return near?.source ? { ...piece, holds: near.source } : piece;
	});
}

function pieceFrom(
	frame: number,
	end: number,
	called: string,
	standIns: readonly string[],
	clips: readonly PlacedClip[],
	shoot: Shoot
): PicturePiece {
	const sourceAt = (index: number) => {
		const flicks = videoFrameToFlicks(index, shoot.rate);
		for (const deviceId of [called, ...standIns]) {
			const found = pictureAt(clips, deviceId, flicks);
			if (found) return found;
		}
		return undefined;
	};
	const first = sourceAt(frame);
	let toFrame = frame + 1;
	while (toFrame < end && sourceAt(toFrame)?.part.fileId === first?.part.fileId) toFrame++;
	return {
		fromFrame: frame,
		toFrame,
		calledDeviceId: called,
		...(first ? { source: fileSource(first.clip, first.part) } : {})
	};
}

/** The file whose picture a device shows at a moment. */
export function pictureAt(
	clips: readonly PlacedClip[],
	deviceId: string,
	flicks: number
): { readonly clip: PlacedClip; readonly part: ClipPart } | undefined {
	const clip = clipAt(clips, deviceId, flicks);
	if (!clip) return undefined;
	const media = toMedia(clip.placement, flicks);
	const part = partAt(clip, media);
	if (!part?.picture) return undefined;
	return media - part.offsetFlicks >= part.picture.startFlicks - 1 ? { clip, part } : undefined;
}

function fileSource(clip: PlacedClip, part: ClipPart): FileSource {
	return {
		fileId: part.fileId,
		deviceId: clip.deviceId,
		startFlicks: toTimeline(clip.placement, part.offsetFlicks),
		rateFactor: 1 + clip.placement.ratePpm * 1e-6
	};
}

/** All stretches of the master's channels within a range. */
export function soundPieces(
	clips: readonly PlacedClip[],
	master: readonly MasterChannel[],
	inFlicks: number,
	outFlicks: number
): readonly SoundPiece[] {
	const pieces: SoundPiece[] = [];
	const sounding = clips.map(asSound);
	for (const deviceId of new Set(master.map((one) => one.deviceId))) {
		const channels = master
			.filter((one) => one.deviceId === deviceId)
			.map(({ channel, gainDb, pan }) => ({ channel, gainDb, pan }));
		for (const clip of sounding.filter((one) => one.deviceId === deviceId)) {
			for (const part of clip.parts) {
				if (!part.sound) continue;
				const source = fileSource(clip, part);
				const from = Math.max(inFlicks, source.startFlicks + part.sound.startFlicks * source.rateFactor);
				const to = Math.min(outFlicks, source.startFlicks + part.durationFlicks * source.rateFactor, placedEnd(clip));
				if (to > from) pieces.push({ source, inFlicks: from, outFlicks: to, channels });
			}
		}
	}
	return pieces;
}
