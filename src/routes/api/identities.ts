import { z } from 'zod';

/** Identities in addresses; anything else is refused before it reaches the database. */
export const Identity = z.uuid('There is no such thing.');
