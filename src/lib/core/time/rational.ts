/** A rate as a fraction of whole numbers, such as 30000/1001. */
export interface Rational {
	readonly num: number;
	readonly den: number;
}

/** Reads "25/1", "30000/1001" or "25". @returns nothing for a rate that is not a positive number */
export function parseRational(text: string | undefined): Rational | undefined {
	const [num, den = '1'] = (text ?? '').split('/');
	const rate = { num: Number(num), den: Number(den) };
	return Number.isFinite(rate.num / rate.den) && rate.num > 0 && rate.den > 0 ? rate : undefined;
}

export function ratePerSecond(rate: Rational): number {
	return rate.num / rate.den;
}

/** The rate in words of the trade: 25, 29.97, 23.976. */
export function rateInWords(rate: Rational): string {
	const value = ratePerSecond(rate);
	return Number.isInteger(value)
		? `${value}`
		: value
				.toFixed(3)
				.replace(/0+$/, '')
				.replace(/(\.\d\d)\d?$/, value < 24 ? '$&' : '$1');
}
