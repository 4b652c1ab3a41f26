import { createHash } from 'node:crypto';
import { signedText } from '../../../core/proof/report';
import type { Shoot } from '../../../core/shoot/shoot';
import type { Queryable } from '../../db/database';

/** Digest of all that lies on a line-up: a signature with another one is out of date. */
export function lineUpDigest(shoot: Shoot, lineUpId: string): string {
	return createHash('sha256').update(signedText(shoot, lineUpId)).digest('hex');
}

/** Notes who has found a line-up in sync, and what it is at this moment. */
export async function signLineUp(
	transaction: Queryable,
	shoot: Shoot,
	{
		lineUpId,
		signedBy,
		signedOn,
		remark
	}: { readonly lineUpId: string; readonly signedBy: string; readonly signedOn: string; readonly remark: string }
): Promise<void> {
	await transaction.query(
		'insert into signature (shoot_id, line_up_id, signed_by, signed_on, remark, digest) values ($1, $2, $3, $4, $5, $6)',
		[shoot.id, lineUpId, signedBy, signedOn, remark, lineUpDigest(shoot, lineUpId)]
	);
}
