import Papa from 'papaparse';
import { buildReport, methodWords, type SignedReport, verdictWords } from '../../../core/proof/report';
import { flicksToSeconds, flicksToVideoFrame } from '../../../core/time/flicks';
import { timecodeOfFrame } from '../../../core/time/timecode';
import type { Queryable } from '../../db/database';
import type { Runtime } from '../../runtime';
import { loadMoments } from '../line-up/pair-moments';
import { ShootError } from '../../shoots/shoot-error';
import { lineUpDigest } from './sign-line-up';

/** What a report is made of. */
type ReportContext = Pick<Runtime, 'database' | 'shoots'>;

/** The report of a line-up, as it stands. @throws ShootError there is none of that identity */
export async function lineUpReport(
	{ database, shoots }: ReportContext,
	shootId: string,
	lineUpId?: string
): Promise<SignedReport> {
	const { shoot } = await shoots.current(shootId);
	const id = lineUpId ?? shoot.lineUps[0]?.id;
	if (id === undefined || !shoot.lineUps.some((one) => one.id === id))
		throw new ShootError('no-such-line-up', 'There is no such line-up: line up first.');
	const report = buildReport(shoot, id, await loadMoments(database, shootId, id), await handChanges(database, shootId));
	const digest = lineUpDigest(shoot, id);
	return {
		...report,
		verdictWords: verdictWords(report.verdict),
		signatures: shoot.signatures
			.filter((one) => one.lineUpId === id)
			.map(({ signedBy, signedOn, remark, digest: own }) => ({
				signedBy,
				signedOn,
				remark,
				isOutOfDate: own !== digest
			}))
	};
}

/** Edits that changed where a clip lies, but for line-ups by the engine: their words, by clip, oldest first. */
async function handChanges(database: Queryable, shootId: string): Promise<ReadonlyMap<string, readonly string[]>> {
	const rows = await database.query<{ clip_id: string; label: string; at: string }>(
		`select clip_id, label, to_char(at at time zone 'utc', 'YYYY-MM-DD HH24:MI "UTC"') as at from (
			select distinct edit.id, edit.label, edit.at, coalesce(change.after, change.before)->>'clip_id' as clip_id
			from edit join edit_change change on change.edit_id = edit.id
			where edit.shoot_id = $1 and edit.state = 'done' and change.table_name = 'placement'
				and edit.command->>'kind' <> 'line-up'
		 ) as changed order by id`,
		[shootId]
	);
	const changes = new Map<string, string[]>();
	for (const { clip_id, label, at } of rows) {
		const own = changes.get(clip_id) ?? [];
		own.push(`${label} (${at})`);
		changes.set(clip_id, own);
	}
	return changes;
}

/** The report as a table for a spreadsheet, first the verdict. */
export async function reportAsCsv(context: ReportContext, shootId: string, lineUpId?: string): Promise<string> {
	const report = await lineUpReport(context, shootId, lineUpId);
	const { rate } = (await context.shoots.current(shootId)).shoot;
	const milliseconds = (seconds: number | undefined) => (seconds === undefined ? '' : (1000 * seconds).toFixed(3));
	const rows = report.rows.map((row) => ({
		badge: row.badge,
		device: row.device,
		clip: row.clip,
		method: methodWords(row.method),
		start_timecode: timecodeOfFrame(flicksToVideoFrame(row.startFlicks, rate), rate),
		start_seconds: flicksToSeconds(row.startFlicks).toFixed(6),
		rate_ppm: row.ratePpm.toFixed(2),
		residual_head_ms: milliseconds(row.headSeconds),
		residual_middle_ms: milliseconds(row.middleSeconds),
		residual_tail_ms: milliseconds(row.tailSeconds),
		frame_remainder_ms: milliseconds(
			row.remainderFlicks === undefined ? undefined : flicksToSeconds(row.remainderFlicks)
		),
		air_metres: row.airMetres,
		confidence: row.confidence?.toFixed(4) ?? '',
		by_hand: row.byHand ? 'yes' : 'no',
		locked: row.isLocked ? 'yes' : 'no',
		changes: row.changes.join('; ')
	}));
	const head = [
		['shoot', report.shoot],
		['line-up', `${report.lineUp}`],
		['verdict', report.verdictWords],
		...(report.verdict.kind === 'in sync' ? [] : report.verdict.faults.map((fault) => ['look at', fault])),
		...report.signatures.map((one) => [
			'signed',
			`${one.signedBy}, ${one.signedOn}${one.isOutOfDate ? ' (out of date)' : ''}`
		]),
		[]
	];
	// A cell that begins like a formula is none.
	const safe = { escapeFormulae: true, newline: '\r\n' };
	return `${Papa.unparse(head, safe)}\r\n${Papa.unparse(rows, safe)}\r\n`;
}
