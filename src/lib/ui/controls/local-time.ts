/** Times of this browser's own place; the server tells all its times in UTC. */

const TIME = new Intl.DateTimeFormat('sv-SE', { dateStyle: 'short', timeStyle: 'short' });
const DAY = new Intl.DateTimeFormat('sv-SE', { dateStyle: 'short' });

/** As 2026-05-16. */
export function localDay(date: Date): string {
	return DAY.format(date);
}

/** As 05-16 18:05. @param iso with its time zone */
export function localTime(iso: string): string {
	return TIME.format(new Date(iso)).slice(5);
}
