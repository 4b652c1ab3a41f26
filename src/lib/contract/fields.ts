import { z } from 'zod';
import { MAX_CLIP_SECONDS, MAX_LINE_UP_DAYS, MAX_LINE_UP_SECONDS } from '../core/limits/recording';
import { secondsToFlicks } from '../core/time/flicks';

/** Said of a place that no line-up has. */
export const TOO_FAR = `A line-up is ${MAX_LINE_UP_DAYS} days long at most.`;

/** What requests are made of. */
export const Id = z.uuid();
export const Ids = z.array(Id).min(1).max(5000);
export const Name = z.string().trim().min(1).max(100);
const MAX_FLICKS = secondsToFlicks(MAX_LINE_UP_SECONDS);
/** A time or a length on a line-up, in either direction: whole flicks. */
export const Flicks = z.number().int().min(-MAX_FLICKS, TOO_FAR).max(MAX_FLICKS, TOO_FAR);
/** A moment of a clip. */
export const MediaFlicks = z.number().int().min(0).max(secondsToFlicks(MAX_CLIP_SECONDS));
/** Text that may be empty. */
export const words = (most: number) => z.string().trim().max(most);
/** A folder as it is typed or chosen. */
export const FolderPath = z.string().min(1, 'Choose a folder.').max(4096);
