import { z } from 'zod';

/** Whole flicks, in either direction, as far as numbers are exact. */
export const Flicks = z
	.number()
	.int()
	.min(-(2 ** 52))
	.max(2 ** 52);
