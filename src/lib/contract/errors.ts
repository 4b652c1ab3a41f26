/** What can go wrong, by a code that stays the same while sentences may change, with the HTTP status it is answered with. */
export const ERRORS = {
	'not-valid': 400,
	'not-json': 400,
	'too-large': 413,
	fault: 500,
	'disk-full': 507,
	'disk-read-only': 507,
	'disk-fault': 507,
	'database-damaged': 500,
	'database-ended': 503,

	'path-outside': 403,
	'path-missing': 404,

	'no-such-shoot': 404,
	'no-such-device': 404,
	'no-such-clip': 404,
	'no-such-file': 404,
	'no-such-person': 404,
	'no-such-line-up': 404,
	'no-such-point': 404,
	'no-such-program': 404,
	'no-such-hand-off': 404,
	'not-deleted': 404,

	'nothing-to-undo': 409,
	'nothing-to-redo': 409,
	'badge-taken': 409,
	'not-a-camera': 409,
	'same-device': 409,
	'same-clip': 409,
	'one-file': 409,
	'not-one-device': 409,
	'source-known': 409,
	'none-missing': 409,
	'none-found': 409,
	'not-placed': 409,
	locked: 409,
	'outside-clip': 409,
	'outside-line-up': 409,
	'too-long': 409,
	'in-after-out': 409,
	'two-line-ups': 409,
	'no-sound': 409,
	'silent-passage': 409,
	'not-together': 409,
	'no-common-points': 409,
	'no-timecode-place': 409,
	'no-clips-chosen': 409,
	'all-placed': 409,
	'no-master': 409,
	'speech-not-known': 409,
	'no-program': 409,
	'too-many-jobs': 409,
	'job-not-running': 409,
	'job-not-ended': 409,
	'not-an-archive': 409,
	'does-not-fit': 409,

	'not-media': 422,
	empty: 422,
	unreadable: 422,
	missing: 422,
	'no-permission': 422,
	'tool-missing': 422,
	'tool-failed': 422,
	'took-too-long': 422
} as const;

export type ErrorCode = keyof typeof ERRORS;

/** How a request that was refused is answered. */
export interface ErrorAnswer {
	readonly code: ErrorCode;
	/** What happened, why, what to do now: for the editor. */
	readonly message: string;
}
