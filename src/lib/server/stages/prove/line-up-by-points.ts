import {
	alignByPoints,
	type Edge,
	edgePoints,
	type MarkedPoint,
	type PointLineUp
} from '../../../core/solve/points/by-points';
import type { AlignableClip } from '../../../core/solve/clip';
import type { Clip } from '../../../core/shoot/clip';
import type { Shoot } from '../../../core/shoot/shoot';
import { flicksToSeconds, secondsToFlicks } from '../../../core/time/flicks';
import type { PointWay } from '../../../contract/commands/prove';
import type { Queryable } from '../../db/database';
import type { EditContext } from '../../edits/command';
import { dropEmptyLineUps, placeClips } from '../../shoots/clip-rows';
import { clipOf, placedClip, unlockedClip } from '../../shoots/found';
import { ShootError } from '../../shoots/shoot-error';
import { beginPrograms } from '../line-up/store-alignment';

interface Request {
	readonly way: PointWay;
	readonly clipIds?: readonly string[] | undefined;
	readonly keepsPlaces: boolean;
}

/**
 * Lines clips up by what is marked in them: sync points of the same name, or the same edge of each. Locked clips stay; so
 * does all that has a place, where points are used together with sound.
 */
export async function lineUpByPoints({ transaction, shoot }: EditContext, request: Request): Promise<string> {
	const { way, keepsPlaces } = request;
	const clips = chosenClips(shoot, request);
	const alignable = clips.map((clip) => asAlignable(clip, keepsPlaces));
	const points = way === 'sync point' ? syncPoints(clips) : edgePoints(alignable, way satisfies Edge, trimsOf(clips));
	const reference = shoot.lineUps[0]?.referenceDeviceId;
	const lineUps = alignByPoints(alignable, points, reference, knownRates(shoot));
	if (lineUps.length === 0)
		throw new ShootError(
			way === 'sync point' ? 'no-common-points' : 'no-clips-chosen',
			way === 'sync point'
				? 'No two clips have a sync point of the same name. Mark one event in two clips and give both marks one name.'
				: 'Choose at least two clips.'
		);
	let count = 0;
	for (const lineUp of lineUps) count += await put(transaction, shoot, clips, alignable, lineUp, way);
	if (count === 0) throw new ShootError('all-placed', 'All of these clips have a place already, or are locked.');
	await dropEmptyLineUps(transaction, shoot.id);
	await beginPrograms(transaction, shoot.id);
	return `Line up ${count} clip${count === 1 ? '' : 's'} by ${way}s`;
}

/** Lays one clip onto another, which has a place and keeps it, by the same edge of both. */
export async function placeByEdge(
	{ transaction, shoot }: EditContext,
	{ clipId, ontoClipId, way }: { readonly clipId: string; readonly ontoClipId: string; readonly way: Edge }
): Promise<void> {
	const clip = unlockedClip(clipOf(shoot, clipId));
	const onto = placedClip(clipOf(shoot, ontoClipId));
	if (clip === onto) throw new ShootError('same-clip', 'Choose two different clips.');
	const clips = [clip, onto];
	const alignable = [asAlignable(clip, false), asAlignable(onto, true)];
	const points = edgePoints(alignable, way, trimsOf(clips));
	const [lineUp] = alignByPoints(alignable, points, undefined, knownRates(shoot));
	await put(transaction, shoot, clips, alignable, lineUp!, way);
	await beginPrograms(transaction, shoot.id);
}

function chosenClips(shoot: Shoot, { clipIds, way }: Request): readonly Clip[] {
	if (!clipIds) {
		if (way !== 'sync point') throw new ShootError('no-clips-chosen', 'Choose the clips that are to be lined up so.');
		return shoot.clips.filter((clip) => clip.syncPoints.length > 0);
	}
	const wanted = new Set(clipIds);
	return shoot.clips.filter((clip) => wanted.has(clip.id));
}

function asAlignable(clip: Clip, keepsPlaces: boolean): AlignableClip {
	const durationSeconds = flicksToSeconds(clip.durationFlicks);
	const { placement } = clip;
	const stays = placement && (keepsPlaces || placement.isLocked);
	return {
		id: clip.id,
		device: clip.deviceId,
		hasPicture: clip.parts[0]?.picture !== undefined,
		channels: clip.parts[0]?.sound?.channels ?? 0,
		durationSeconds,
		soundStartSeconds: 0,
		soundSeconds: durationSeconds,
		...(stays
			? {
					fixed: {
						lineUp: placement.lineUpId,
						startSeconds: flicksToSeconds(placement.startFlicks),
						ratePpm: placement.measuredRatePpm
					}
				}
			: {})
	};
}

function syncPoints(clips: readonly Clip[]): readonly MarkedPoint[] {
	return clips.flatMap((clip, index) =>
		clip.syncPoints.map((point) => ({
			clip: index,
			name: point.name.trim().toLowerCase(),
			mediaSeconds: flicksToSeconds(point.mediaFlicks)
		}))
	);
}

function trimsOf(clips: readonly Clip[]) {
	return new Map(
		clips.map(({ inFlicks, outFlicks }, index) => [
			index,
			{
				...(inFlicks === undefined ? {} : { inSeconds: flicksToSeconds(inFlicks) }),
				...(outFlicks === undefined ? {} : { outSeconds: flicksToSeconds(outFlicks) })
			}
		])
	);
}

/** Clocks that sound has measured. */
function knownRates(shoot: Shoot): ReadonlyMap<string, number> {
	return new Map(
		shoot.clips.flatMap(({ deviceId, placement }) =>
			placement?.method === 'audio' ? [[deviceId, placement.measuredRatePpm] as const] : []
		)
	);
}

/** @returns how many clips got a place */
async function put(
	transaction: Queryable,
	shoot: Shoot,
	clips: readonly Clip[],
	alignable: readonly AlignableClip[],
	lineUp: PointLineUp,
	way: PointWay
): Promise<number> {
	const moved = lineUp.placements.filter((one) => !alignable[one.clip]!.fixed);
	if (moved.length === 0) return 0;
	const lineUpIds = new Set(
		lineUp.placements.flatMap((one) => {
			const { fixed } = alignable[one.clip]!;
			return fixed ? [fixed.lineUp] : [];
		})
	);
	if (lineUpIds.size > 1)
		throw new ShootError('two-line-ups', 'These points belong to two line-ups whose clips already have their places.');
	const old = clips[lineUp.placements.find((one) => clips[one.clip]!.placement)?.clip ?? -1]?.placement;
	const lineUpId = [...lineUpIds][0] ?? old?.lineUpId ?? (await newLineUp(transaction, shoot, lineUp));
	const shift = lineUpIds.size > 0 ? 0 : keptOrigin(clips, lineUp, lineUpId);
	const worst = new Map<number, number>();
	for (const { clip, residualSeconds } of lineUp.residuals)
		worst.set(clip, Math.max(worst.get(clip) ?? 0, Math.abs(residualSeconds)));
	await placeClips(
		transaction,
		shoot.id,
		moved.map(({ clip, startSeconds, ratePpm }) => ({
			clipId: clips[clip]!.id,
			lineUpId,
			startFlicks: secondsToFlicks(startSeconds) + shift,
			ratePpm,
			method: way,
			confidence: 1,
			residualSeconds: worst.get(clip) ?? 0,
			byHand: true
		}))
	);
	return moved.length;
}

async function newLineUp(transaction: Queryable, shoot: Shoot, lineUp: PointLineUp): Promise<string> {
	const [row] = await transaction.query<{ id: string }>(
		'insert into line_up (shoot_id, reference_device_id, position) values ($1, $2, $3) returning id',
		[shoot.id, lineUp.referenceDevice, shoot.lineUps.length]
	);
	return row!.id;
}

/** A line-up that is made again keeps its zero, so that the program on it stays where it is. */
function keptOrigin(clips: readonly Clip[], lineUp: PointLineUp, lineUpId: string): number {
	const known = lineUp.placements.filter((one) => clips[one.clip]!.placement?.lineUpId === lineUpId);
	const anchor = known.find((one) => clips[one.clip]!.deviceId === lineUp.referenceDevice) ?? known[0];
	return anchor ? clips[anchor.clip]!.placement!.startFlicks - secondsToFlicks(anchor.startSeconds) : 0;
}
