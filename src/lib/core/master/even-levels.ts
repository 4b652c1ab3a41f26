import type { MasterChannel } from '../shoot/decisions';
import type { Person } from '../shoot/person';
import { isSameChannel, type SourcesReport } from './report';

const MOST_DB = 24;

/**
 * The master with everybody as loud as the others, each by the channel of it that is closest to him; the mean of them stays.
 * Other channels are left as they are.
 * @returns nothing where fewer than two are known
 */
export function evenLevels(
	master: readonly MasterChannel[],
	people: readonly Person[],
	{ sources, personIds }: Pick<SourcesReport, 'sources' | 'personIds'>
): readonly MasterChannel[] | undefined {
	const levels = new Map<MasterChannel, number[]>();
	for (const { id, channels } of people) {
		const own = channels
			.map((one) => master.find((other) => isSameChannel(one, other)))
			.find((one) => one !== undefined);
		const source = own && sources.find((one) => isSameChannel(one, own));
		const levelDb = source?.people[personIds.indexOf(id)]?.levelDb;
		if (own && levelDb !== undefined) levels.set(own, [...(levels.get(own) ?? []), levelDb]);
	}
	if (levels.size < 2) return undefined;
	const mean = (values: readonly number[]) => values.reduce((sum, one) => sum + one, 0) / values.length;
	const wanted = mean([...levels].map(([channel, own]) => mean(own) + channel.gainDb));
	return master.map((channel) => {
		const own = levels.get(channel);
		if (!own) return channel;
		const gainDb = Math.max(-MOST_DB, Math.min(MOST_DB, wanted - mean(own)));
		return { ...channel, gainDb: Math.round(10 * gainDb) / 10 };
	});
}
