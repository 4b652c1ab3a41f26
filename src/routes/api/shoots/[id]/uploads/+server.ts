import { API } from '$lib/contract/endpoints';
import { answers } from '../../../answer';

/** Uploads that have begun and are not whole. */
export const GET = answers(API.uploads, ({ runtime, params: { id } }) => runtime.uploads.unfinished(id));

export const DELETE = answers(API.dropUploads, ({ runtime, params: { id } }) => runtime.uploads.dropUnfinished(id));
