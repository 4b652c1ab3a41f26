import { anglesOf, rangeOfAllAngles } from '../../../core/program/program';
import type { Clip } from '../../../core/shoot/clip';
import type { PairNote, ShootLineUp } from '../../../core/shoot/line-up';
import type { Shoot } from '../../../core/shoot/shoot';
import type { AlignedLineUp } from '../../../core/solve/alignment';
import { clockWords } from '../../../core/solve/timecode/clocks';
import type { ClipBend } from '../../../core/solve/direct/clip-bends';
import type { BendMoment } from '../../../core/time/course';
import { secondsToFlicks } from '../../../core/time/flicks';
import { clockTimeWords } from '../../../core/time/words';
import { proposedMaster } from '../../../core/master/propose';
import type { Queryable } from '../../db/database';
import { dropEmptyLineUps, type NewPlacement, placeClips } from '../../shoots/clip-rows';
import type { AlignedRecordings } from './align-recordings';
import { loadShoot } from '../../shoots/view';
import { type ClipStretch, splitAtLosses } from './split-clip';
import { storeMoments } from './pair-moments';

/** Puts what the engine found into the shoot. What was set by hand stays; so does all that is locked. @returns words for the edit */
export async function storeAlignment(
	transaction: Queryable,
	shootId: string,
	clips: readonly Clip[],
	aligned: AlignedRecordings,
	onlyNew: boolean
): Promise<string> {
	const before = await loadShoot(transaction, shootId);
	await transaction.query('delete from stray where shoot_id = $1', [shootId]);
	if (!onlyNew)
		await transaction.query('delete from placement where shoot_id = $1 and not by_hand and not locked', [shootId]);
	const kept = new Set(
		before.clips
			.filter((clip) => (onlyNew ? clip.placement : clip.placement?.byHand || clip.placement?.isLocked))
			.map((clip) => clip.id)
	);
	const used = new Set<string>();
	let added = 0;
	for (const [position, lineUp] of aligned.alignment.lineUps.entries()) {
		const ids = lineUp.placed.map((placed) => clips[placed.clip]!.id);
		const old = before.lineUps.find(
			(one) =>
				!used.has(one.id) && before.clips.some((clip) => clip.placement?.lineUpId === one.id && ids.includes(clip.id))
		);
		const lineUpId = await storeLineUp(transaction, shootId, lineUp, position, old?.id);
		used.add(lineUpId);
		const notes = lineUp.links.map((link): PairNote => ({
			a: clips[link.a]!.id,
			b: clips[link.b]!.id,
			lagSeconds: link.evidence.lagSeconds,
			overlapSeconds: link.evidence.overlapSeconds,
			residualSeconds: link.evidence.residualSeconds,
			windows: link.evidence.windows,
			agreeing: link.evidence.inliers,
			strength: link.evidence.strength,
			// An infinite distance is no number in JSON.
			...(Number.isFinite(link.offSeconds) ? { offSeconds: link.offSeconds! } : {}),
			...(link.evidence.direct?.isInverted === undefined ? {} : { isInverted: link.evidence.direct.isInverted })
		}));
		const stretches = new Map<number, readonly ClipStretch[]>();
		const placements: NewPlacement[] = [];
		await storeNotes(transaction, lineUpId, notes, clockNotes(lineUp), onlyNew ? old : undefined);
		const shift = old && !onlyNew ? keptOrigin(before, old.id, lineUp, clips) : 0;
		for (const placed of lineUp.placed) {
			const clip = clips[placed.clip]!;
			if (kept.has(clip.id)) continue;
			const own = await splitAtLosses(transaction, shootId, clip, placed);
			stretches.set(placed.clip, own);
			for (const { clipId, startSeconds } of own)
				placements.push({
					clipId,
					lineUpId,
					startFlicks: secondsToFlicks(startSeconds) + shift,
					ratePpm: placed.ratePpm,
					...(placed.bend ? { bend: placed.bend.map(inFlicks) } : {}),
					method: placed.method,
					confidence: placed.confidence,
					residualSeconds: placed.residualSeconds,
					byHand: false
				});
		}
		await placeClips(transaction, shootId, placements);
		added += placements.length;
		await storeMoments(transaction, shootId, lineUpId, lineUp.links, { clips, stretches, isAdded: onlyNew });
	}
	await storeStrays(transaction, shootId, clips, aligned, kept);
	await dropEmptyLineUps(transaction, shootId);
	await beginPrograms(transaction, shootId);
	return onlyNew ? `Add ${added} clip${added === 1 ? '' : 's'} to the line-up` : 'Line up';
}

function inFlicks({ mediaSeconds, laterSeconds }: ClipBend[number]): BendMoment {
	return { ownFlicks: secondsToFlicks(mediaSeconds), laterFlicks: secondsToFlicks(laterSeconds) };
}

async function storeStrays(
	transaction: Queryable,
	shootId: string,
	clips: readonly Clip[],
	aligned: AlignedRecordings,
	kept: ReadonlySet<string>
): Promise<void> {
	for (const { clip: index, reason, ambiguity } of aligned.alignment.strays) {
		const clip = clips[index]!;
		if (kept.has(clip.id)) continue;
		const fault = clip.parts.map((part) => aligned.unreadable.get(part.fileId)).find((one) => one !== undefined);
		const places = ambiguity?.lagsSeconds.map(clockTimeWords).join(' or ');
		await transaction.query('insert into stray (shoot_id, clip_id, reason, detail) values ($1, $2, $3, $4)', [
			shootId,
			clip.id,
			fault === undefined ? reason : 'unreadable',
			fault ?? (ambiguity ? `Against ${clips[ambiguity.other]!.name} it could begin at ${places}.` : '')
		]);
	}
}

function clockNotes({ clocks }: AlignedLineUp): ShootLineUp['clocks'] {
	return clocks.filter((clock) => !clock.agrees).map((clock) => ({ deviceId: clock.device, words: clockWords(clock) }));
}

/** @param kept what is known already and stays, where clips were only added */
async function storeNotes(
	transaction: Queryable,
	lineUpId: string,
	notes: readonly PairNote[],
	clocks: ShootLineUp['clocks'],
	kept: ShootLineUp | undefined
): Promise<void> {
	const news = new Set(clocks.map(({ deviceId }) => deviceId));
	await transaction.query('update line_up set evidence = $2, clocks = $3 where id = $1', [
		lineUpId,
		[...(kept?.evidence ?? []), ...notes],
		[...(kept?.clocks ?? []).filter(({ deviceId }) => !news.has(deviceId)), ...clocks]
	]);
}

async function storeLineUp(
	transaction: Queryable,
	shootId: string,
	lineUp: AlignedLineUp,
	position: number,
	oldId: string | undefined
): Promise<string> {
	if (oldId) {
		await transaction.query('update line_up set reference_device_id = $2, position = $3 where id = $1', [
			oldId,
			lineUp.referenceDevice,
			position
		]);
		return oldId;
	}
	const [row] = await transaction.query<{ id: string }>(
		'insert into line_up (shoot_id, reference_device_id, position) values ($1, $2, $3) returning id',
		[shootId, lineUp.referenceDevice, position]
	);
	return row!.id;
}

/** A line-up that is made again keeps its zero, so that the program on it stays where it is. */
function keptOrigin(before: Shoot, lineUpId: string, lineUp: AlignedLineUp, clips: readonly Clip[]): number {
	const common = lineUp.placed.flatMap((placement) => {
		const clip = before.clips.find((one) => one.id === clips[placement.clip]!.id);
		return clip?.placement?.lineUpId === lineUpId ? [{ placement, clip, old: clip.placement }] : [];
	});
	const reference =
		common.find((one) => one.clip.deviceId === lineUp.referenceDevice && !one.old.byHand) ??
		common.find((one) => !one.old.byHand) ??
		common[0];
	return reference ? reference.old.startFlicks - secondsToFlicks(reference.placement.startSeconds) : 0;
}

/** A line-up without a master gets a proposed one; one without a program gets one that begins where all angles exist. */
export async function beginPrograms(transaction: Queryable, shootId: string): Promise<void> {
	const before = await loadShoot(transaction, shootId);
	const isDecided = new Set(
		(
			await transaction.query<{ line_up_id: string }>(
				`select distinct coalesce(after, before)->>'line_up_id' as line_up_id from edit_change join edit on edit.id = edit_id
				 where shoot_id = $1 and state = 'done' and table_name = 'master_channel'`,
				[shootId]
			)
		).map((row) => row.line_up_id)
	);
	for (const lineUp of before.lineUps)
		if (lineUp.master.length === 0 && !isDecided.has(lineUp.id)) await proposeMaster(transaction, before, lineUp);
	const shoot = await loadShoot(transaction, shootId);
	for (const lineUp of shoot.lineUps) {
		const angles = anglesOf(shoot, lineUp.id);
		if (angles.length === 0 || shoot.programs.some((program) => program.lineUpId === lineUp.id)) continue;
		const range = rangeOfAllAngles(shoot, lineUp.id);
		const first = angles.includes(shoot.mainCameraId ?? '') ? shoot.mainCameraId : angles[0];
		await transaction.query(
			'insert into program (shoot_id, line_up_id, in_flicks, out_flicks) values ($1, $2, $3, $4)',
			[shootId, lineUp.id, range.inFlicks, range.outFlicks]
		);
		await transaction.query(
			'insert into program_call (shoot_id, line_up_id, at_flicks, device_id) values ($1, $2, $3, $4)',
			[shootId, lineUp.id, range.inFlicks, first]
		);
	}
}

async function proposeMaster(transaction: Queryable, shoot: Shoot, lineUp: ShootLineUp): Promise<void> {
	for (const { deviceId, channel, pan } of proposedMaster(shoot, lineUp))
		await transaction.query(
			'insert into master_channel (shoot_id, line_up_id, device_id, channel, pan) values ($1, $2, $3, $4, $5)',
			[shoot.id, lineUp.id, deviceId, channel, pan]
		);
}
