/** What was heard in 100 ms. */
export interface MeterReading {
	/** Mean square of both sides under the weighting of BS.1770, added. */
	readonly energy: number;
	/** Greatest magnitude at four times the rate, on either side. */
	readonly peak: number;
}
