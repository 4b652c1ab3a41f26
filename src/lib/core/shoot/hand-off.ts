/** Something that was handed off, and lies among the shoot's hand-offs. */
export interface HandOff {
	readonly id: string;
	/** Its kind, as the list of hand-offs names it. */
	readonly kind: string;
	/** Of which line-up; nothing for those made before line-ups had hand-offs of their own. */
	readonly lineUpId: string | null;
	readonly name: string;
	readonly sizeBytes: number;
	readonly sha256: string;
	/** ISO 8601, UTC. */
	readonly madeAt: string;
}
