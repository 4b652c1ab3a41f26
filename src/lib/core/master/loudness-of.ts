import { decibelsToFactor, panGains } from './gains';
import type { ReportedSource } from './report';

/** A channel that is heard at a level and a side. */
export interface LevelledChannel {
	readonly deviceId: string;
	readonly channel: number;
	readonly gainDb: number;
	readonly pan: number;
}

/**
 * How loud channels are together, their sounds taken for independent: powers add, on both sides (BS.1770-4, equation 2).
 * @returns LUFS; nothing where the loudness of none is known
 */
export function loudnessOf(
	channels: readonly LevelledChannel[],
	sources: readonly Pick<ReportedSource, 'deviceId' | 'channel' | 'measures'>[]
): number | undefined {
	let power = 0;
	for (const { deviceId, channel, gainDb, pan } of channels) {
		const lufs = sources.find((one) => one.deviceId === deviceId && one.channel === channel)?.measures.loudnessLufs;
		if (lufs === undefined) continue;
		const [left, right] = panGains(pan);
		power += 10 ** (lufs / 10) * decibelsToFactor(gainDb) ** 2 * (left ** 2 + right ** 2);
	}
	return power > 0 ? 10 * Math.log10(power) : undefined;
}

/** Nothing is made louder by more than this to be heard at the same loudness. */
const MOST_MATCHING_DB = 24;

/** The gain that makes some channels as loud as others, for listening. @returns dB, 0 where a loudness is not known */
export function matchingGainDb(
	channels: readonly LevelledChannel[],
	to: readonly LevelledChannel[],
	sources: readonly Pick<ReportedSource, 'deviceId' | 'channel' | 'measures'>[]
): number {
	const [own, wanted] = [loudnessOf(channels, sources), loudnessOf(to, sources)];
	if (own === undefined || wanted === undefined) return 0;
	return Math.max(-MOST_MATCHING_DB, Math.min(MOST_MATCHING_DB, wanted - own));
}
