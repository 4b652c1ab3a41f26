export interface MasterChannel {
	readonly deviceId: string;
	readonly channel: number;
	readonly gainDb: number;
	/** -1 left, 0 both sides, 1 right. */
	readonly pan: number;
}

export interface StoredProgram {
	readonly lineUpId: string;
	readonly inFlicks: number;
	readonly outFlicks: number;
	readonly calls: readonly StoredCall[];
}

export interface StoredCall {
	readonly id: string;
	readonly atFlicks: number;
	readonly deviceId: string;
}
