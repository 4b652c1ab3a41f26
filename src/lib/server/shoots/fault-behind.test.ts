import { describe, expect, it } from 'vitest';
import { MediaError } from '../media/media-error';
import { DatabaseEndedError, DatabaseError } from '../db/database';
import { faultBehind } from './fault-behind';

const ofSystem = (code: string) => Object.assign(new Error('write failed'), { code });

describe('what stands behind an error', () => {
	it.each([
		['a system’s full disk', ofSystem('ENOSPC'), 'disk-full'],
		['a quota', ofSystem('EDQUOT'), 'disk-full'],
		[
			'PostgreSQL’s full disk',
			new DatabaseError('could not extend file "base/5/1": No space left on device', '53100'),
			'disk-full'
		],
		[
			'ffmpeg’s full disk',
			new MediaError('tool-failed', 'av_interleaved_write_frame(): No space left on device'),
			'disk-full'
		],
		['one that another error carries', new Error('Not made.', { cause: ofSystem('ENOSPC') }), 'disk-full'],
		['a disk that may only be read', ofSystem('EROFS'), 'disk-read-only'],
		[
			'a disk that does not answer',
			new DatabaseError('could not read block 3: Input/output error', '58030'),
			'disk-fault'
		],
		[
			'a page of the database that is not what was written',
			new DatabaseError('invalid page in block 0 of relation base/5/1', 'XX001'),
			'database-damaged'
		],
		['a database that has ended', new DatabaseEndedError(), 'database-ended']
	])('%s', (_, error, code) => {
		expect(faultBehind(error)).toMatchObject({ code });
		expect(faultBehind(error)!.message).toMatch(/^The .*[.].*(try again|again;|--restore)/);
	});

	it('is nothing where the fault is ours', () => {
		expect(faultBehind(new TypeError('x is not a function'))).toBeUndefined();
		expect(faultBehind(new DatabaseError('duplicate key', '23505'))).toBeUndefined();
		expect(faultBehind('no error')).toBeUndefined();
		// ffmpeg's words for a recording that ends in the midst of a frame.
		expect(faultBehind(new MediaError('tool-failed', 'C0001.MP4: Input/output error'))).toBeUndefined();
	});
});
