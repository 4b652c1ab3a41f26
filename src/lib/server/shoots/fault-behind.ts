import type { ErrorAnswer } from '../../contract/errors';
import { DatabaseError, DatabaseEndedError } from '../db/database';
import { diskFault } from '../disk/disk-fault';

/** What stands behind an error that is no fault of ours: the disk, or the database on it. @returns nothing for others */
export function faultBehind(error: unknown): ErrorAnswer | undefined {
	const fault = diskFault(error);
	if (fault) return fault;
	if (error instanceof DatabaseEndedError)
		return {
			code: 'database-ended',
			message: 'The database has stopped. Start Open Choir again; what was confirmed is kept.'
		};
	if (error instanceof DatabaseError && error.isOfDamage)
		return {
			code: 'database-damaged',
			message: 'The database is damaged. Stop Open Choir, and restore the newest backup with ./start --restore.'
		};
	return undefined;
}
