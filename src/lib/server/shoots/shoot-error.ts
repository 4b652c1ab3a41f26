import type { ErrorCode } from '../../contract/errors';

/** Something asked of a shoot cannot be done; the message is a sentence for the editor. */
export class ShootError extends Error {
	constructor(
		readonly code: ErrorCode,
		message: string,
		options?: ErrorOptions
	) {
		super(message, options);
		this.name = 'ShootError';
	}
}
