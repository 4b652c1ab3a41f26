import { z } from 'zod';

/** What requests are made of. */
export const Id = z.uuid();
export const Ids = z.array(Id).min(1).max(5000);
export const Name = z.string().trim().min(1).max(100);
/** A time or a length on a line-up, in either direction: whole flicks, as far as numbers are exact. */
export const Flicks = z
	.number()
	.int()
	.min(-(2 ** 52))
	.max(2 ** 52);
/** A moment of a clip. */
export const MediaFlicks = Flicks.min(0);
/** Text that may be empty. */
export const words = (most: number) => z.string().trim().max(most);
/** A folder as it is typed or chosen. */
export const FolderPath = z.string().min(1, 'Choose a folder.').max(4096);
