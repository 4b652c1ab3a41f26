/** Minutes and seconds, with hours where there are any: 07:12, 1:02:03. */
export function clockTimeWords(seconds: number): string {
	const whole = Math.round(Math.abs(seconds));
	const two = (value: number) => `${value}`.padStart(2, '0');
	const hours = Math.floor(whole / 3600);
	return `${seconds < 0 ? '-' : ''}${hours > 0 ? `${hours}:` : ''}${two(Math.floor(whole / 60) % 60)}:${two(whole % 60)}`;
}
