/** Something asked of a shoot cannot be done; the message is a sentence for the editor. */
export class ShootError extends Error {
	constructor(
		readonly kind: 'not-found' | 'not-possible' | 'conflict',
		message: string,
		options?: ErrorOptions
	) {
		super(message, options);
		this.name = 'ShootError';
	}
}
