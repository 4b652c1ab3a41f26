/** What a clip's name can be made of; empty text where it is not known. */
export interface NameParts {
	readonly scene: string;
	readonly shot: string;
	readonly take: string;
	/** The device's name, and its badge. */
	readonly device: string;
	readonly angle: string;
	/** yyyy-mm-dd */
	readonly date: string;
	/** The name as it is. */
	readonly name: string;
}

export const NAME_FIELDS = ['scene', 'shot', 'take', 'angle', 'device', 'date', 'counter', 'name'] as const;
const FIELD = /\{([a-z]+)(?::(\d))?\}/g;

/**
 * A clip's name from a pattern such as "{scene}-{take} {angle} {counter:3}". A number behind a colon fills a number up
 * with zeros. What is not known leaves no doubled or dangling separators behind.
 * @param count place of the clip among those that are named, from 1
 * @returns empty text where nothing of the pattern is known
 * @throws RangeError a field that there is not
 */
export function nameFromPattern(pattern: string, parts: NameParts, count: number): string {
	const filled = pattern.replace(FIELD, (_, field: string, digits: string | undefined) => {
		if (!(NAME_FIELDS as readonly string[]).includes(field))
			throw new RangeError(
				`There is no field {${field}}. Fields are ${NAME_FIELDS.map((one) => `{${one}}`).join(', ')}.`
			);
		const value = field === 'counter' ? `${count}` : parts[field as keyof NameParts];
		return digits && /^\d+$/.test(value) ? value.padStart(Number(digits), '0') : value;
	});
	return filled
		.replace(/([\s_.-])[\s_.-]*(?=[\s_.-])/g, '')
		.replace(/^[\s_.-]+|[\s_.-]+$/g, '')
		.slice(0, 200);
}
