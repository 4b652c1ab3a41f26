import type { MasterChannel } from '../shoot/decisions';
import { median } from '../fitting/median';
import type { Person } from '../shoot/person';
import { secondsToFlicks } from '../time/flicks';
import { isSameChannel, type SourcesReport } from './report';

/** A channel that hears people later or earlier than the microphones of theirs that it is mixed with, or turned. */
export interface ApartMicrophone {
	readonly channel: MasterChannel;
	/** By how much more it should be heard later, for people and their own microphones to come together; the median of people. */
	readonly shiftFlicks: number;
	/** How far people lie apart in it: together for one they comb for the other. */
	readonly spreadSeconds: number;
	/** Its polarity, as it stands in the mix, is turned against theirs. */
	readonly isInverted: boolean;
	/** Against whom. */
	readonly personIds: readonly string[];
}

/** Closer than this microphones are together: a tenth of a sample at 48 kHz is not heard. */
const TOGETHER_SECONDS = 10e-6;

/**
 * Microphones of a mix that hear the same voice as its own microphone but elsewhere in time, or upside down: together they comb.
 * People whose closest microphone is in the mix stay where they are; all other channels come to them.
 */
export function apartMicrophones(
	master: readonly MasterChannel[],
	people: readonly Person[],
	{ sources, personIds }: Pick<SourcesReport, 'sources' | 'personIds'>
): readonly ApartMicrophone[] {
	const own = people.flatMap(({ id, channels: [closest] }) => {
		const channel = closest && master.find((one) => isSameChannel(one, closest));
		return channel ? [{ id, channel }] : [];
	});
	return master.flatMap((channel) => {
		if (own.some((one) => one.channel === channel)) return [];
		const source = sources.find((one) => isSameChannel(one, channel));
		const heard = own.flatMap(({ id, channel: close }) => {
			const lag = source?.people[personIds.indexOf(id)];
			if (lag?.laterSeconds === undefined) return [];
			const shiftFlicks = close.shiftFlicks - channel.shiftFlicks - secondsToFlicks(lag.laterSeconds);
			const turned =
				lag.isInverted === undefined ? undefined : lag.isInverted !== (close.isInverted !== channel.isInverted);
			return [{ id, shiftFlicks, laterSeconds: lag.laterSeconds, turned }];
		});
		if (heard.length === 0) return [];
		const lags = heard.map((one) => one.laterSeconds);
		const shiftFlicks = Math.round(median(heard.map((one) => one.shiftFlicks)));
		const votes = heard.filter((one) => one.turned !== undefined);
		const isInverted = votes.filter((one) => one.turned).length * 2 > votes.length;
		if (Math.abs(shiftFlicks) < secondsToFlicks(TOGETHER_SECONDS) && !isInverted) return [];
		return [
			{
				channel,
				shiftFlicks,
				spreadSeconds: Math.max(...lags) - Math.min(...lags),
				isInverted,
				personIds: heard.map((one) => one.id)
			}
		];
	});
}

/** The master with them brought together. */
export function broughtTogether(
	master: readonly MasterChannel[],
	apart: readonly ApartMicrophone[]
): readonly MasterChannel[] {
	return master.map((channel) => {
		const one = apart.find((other) => isSameChannel(other.channel, channel));
		if (!one) return channel;
		return {
			...channel,
			shiftFlicks: channel.shiftFlicks + one.shiftFlicks,
			isInverted: one.isInverted ? !channel.isInverted : channel.isInverted
		};
	});
}
