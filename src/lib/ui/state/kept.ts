import type { z } from 'zod';

/** What this browser keeps for one editor; nothing that leaves depends on it. @returns as at first, where it is spoilt or older */
export function readKept<Schema extends z.ZodType>(key: string, schema: Schema): z.infer<Schema> {
	try {
		return schema.parse(JSON.parse(localStorage.getItem(key) ?? '{}'));
	} catch {
		return schema.parse({});
	}
}

export function keep(key: string, value: object): void {
	localStorage.setItem(key, JSON.stringify(value));
}
