export type MediaErrorKind =
	'not-media' | 'empty' | 'unreadable' | 'missing' | 'no-permission' | 'tool-missing' | 'tool-failed' | 'took-too-long';

/** Something is wrong with a file or a media tool; the message is a sentence for the editor. */
export class MediaError extends Error {
	constructor(
		readonly kind: MediaErrorKind,
		message: string,
		options?: ErrorOptions
	) {
		super(message, options);
		this.name = 'MediaError';
	}
}
