import { median } from '../fitting/median';

/** A clip's time of day by its timecode, and what its file says of when it was made. */
export interface ClockedClip {
	readonly deviceId: string;
	/** Since midnight. */
	readonly clockSeconds: number;
	/** ISO 8601; with a Z it is told in UTC, without one by the device's own clock. */
	readonly recordedAt?: string | undefined;
}

const DAY = 86_400;

/**
 * Clock times that go on over midnight and over days: seconds since the first midnight of them all. A timecode tells no
 * day; the file's own date does. Both differ by the device's time zone and by how its clocks were set, which is the same for
 * all its clips: so the day is the one at which a device's two times differ as they do for most of its clips. Without a date
 * a clip before six in the morning belongs to the night after clips of the evening.
 */
export function clockTimes(clips: readonly ClockedClip[]): readonly number[] {
	const offsets = offsetsOfDevices(clips);
	const days = clips.map((clip) => {
		const made = madeSeconds(clip);
		const offset = offsets.get(clip.deviceId);
		return made === undefined || offset === undefined
			? undefined
			: Math.round((made - offset - clip.clockSeconds) / DAY);
	});
	const known = days.filter((day) => day !== undefined);
	const first = known.length > 0 ? Math.min(...known) : 0;
	const evening = clips.some((clip, index) => days[index] === undefined && clip.clockSeconds > 0.75 * DAY);
	return clips.map(({ clockSeconds }, index) => {
		const day = days[index];
		if (day !== undefined) return clockSeconds + (day - first) * DAY;
		return clockSeconds + (evening && clockSeconds < 0.25 * DAY ? DAY : 0);
	});
}

/** How far a device's date lies from its timecode, but for whole days: the median over its clips. */
function offsetsOfDevices(clips: readonly ClockedClip[]): ReadonlyMap<string, number> {
	const found = new Map<string, number[]>();
	for (const clip of clips) {
		const made = madeSeconds(clip);
		if (made === undefined) continue;
		const off = made - clip.clockSeconds;
		const own = found.get(clip.deviceId) ?? [];
		// About the first one, so that what differs by a minute over midnight does not differ by a day.
		const first = own[0] ?? off - DAY * Math.round(off / DAY);
		own.push(first + wrapped(off - first));
		found.set(clip.deviceId, own);
	}
	return new Map([...found].map(([id, own]) => [id, median(own)]));
}

/** To half a day on either side. */
function wrapped(seconds: number): number {
	return seconds - DAY * Math.round(seconds / DAY);
}

function madeSeconds({ recordedAt }: ClockedClip): number | undefined {
	if (recordedAt === undefined) return undefined;
	const ms = Date.parse(/Z|[+-]\d\d:?\d\d$/.test(recordedAt) ? recordedAt : `${recordedAt}Z`);
	return Number.isFinite(ms) ? ms / 1000 : undefined;
}
