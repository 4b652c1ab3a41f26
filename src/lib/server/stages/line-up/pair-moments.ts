import type { PairMoments } from '../../../core/proof/drift';
import type { StretchLink } from '../../../core/solve/losses/lost-samples';
import type { Clip } from '../../../core/shoot/clip';
import { flicksToSeconds } from '../../../core/time/flicks';
import type { Queryable } from '../../db/database';
import type { ClipStretch } from './split-clip';

/** Moments kept of a pair: more would not be told apart in a chart. */
const MAX_MOMENTS = 120;

interface StoredClips {
	/** By their places in the engine's list. */
	readonly clips: readonly Clip[];
	/** What became of those that were placed now. */
	readonly stretches: ReadonlyMap<number, readonly ClipStretch[]>;
	/** What is known already stays. */
	readonly isAdded: boolean;
}

/** Keeps the single moments at which the engine compared pairs: what proves a line-up, and what its drift is drawn from. */
export async function storeMoments(
	transaction: Queryable,
	shootId: string,
	lineUpId: string,
	links: readonly StretchLink[],
	{ clips, stretches, isAdded }: StoredClips
): Promise<void> {
	if (!isAdded) await transaction.query('delete from pair_moments where line_up_id = $1', [lineUpId]);
	const rows = new Map<string, { a: string; b: string; moments: number[] }>();
	for (const link of links) {
		const every = Math.ceil(link.evidence.moments.length / MAX_MOMENTS);
		for (const [index, moment] of link.evidence.moments.entries()) {
			if (index % every !== 0) continue;
			const a = inClip(clips[link.a]!, stretches.get(link.a), moment.aSeconds);
			const b = inClip(clips[link.b]!, stretches.get(link.b), moment.bSeconds);
			const key = `${a.clipId} ${b.clipId}`;
			const row = rows.get(key) ?? { a: a.clipId, b: b.clipId, moments: [] };
			row.moments.push(rounded(a.seconds, 1e6), rounded(b.seconds, 1e6), rounded(moment.weight, 1e3));
			rows.set(key, row);
		}
	}
	await transaction.query(
		`insert into pair_moments (shoot_id, line_up_id, clip_a, clip_b, moments)
		 select $1, $2, a, b, moments from jsonb_to_recordset($3) as pair (a uuid, b uuid, moments jsonb)`,
		[shootId, lineUpId, JSON.stringify([...rows.values()])]
	);
}

/** From seconds of a clip's sound to media time, of the stretch of it that they lie in. */
function inClip(clip: Clip, stretches: readonly ClipStretch[] | undefined, soundSeconds: number) {
	const seconds = soundSeconds + soundStartSeconds(clip);
	const stretch = stretches?.findLast((one) => one.fromSeconds <= seconds) ?? stretches?.[0];
	return { clipId: stretch?.clipId ?? clip.id, seconds: seconds - (stretch?.fromSeconds ?? 0) };
}

/** Media time of a clip's first sample, as the engine counts it. */
function soundStartSeconds({ parts: [first] }: Clip): number {
	if (!first?.sound) return 0;
	return Math.max(0, flicksToSeconds(first.sound.startFlicks + Math.min(0, first.offsetFlicks)));
}

function rounded(value: number, steps: number): number {
	return Math.round(value * steps) / steps;
}

/** Moments of a line-up's pairs, or of one clip's. */
export async function loadMoments(
	database: Queryable,
	shootId: string,
	lineUpId: string,
	clipId?: string
): Promise<readonly PairMoments[]> {
	const rows = await database.query<{ a: string; b: string; moments: number[] }>(
		`select clip_a as a, clip_b as b, moments from pair_moments
		 where line_up_id = $1 and shoot_id = $3 and ($2::uuid is null or clip_a = $2 or clip_b = $2)`,
		[lineUpId, clipId ?? null, shootId]
	);
	return rows.map(({ a, b, moments }) => ({
		a,
		b,
		moments: Array.from({ length: moments.length / 3 }, (_, index) => ({
			aSeconds: moments[3 * index]!,
			bSeconds: moments[3 * index + 1]!,
			weight: moments[3 * index + 2]!
		}))
	}));
}
