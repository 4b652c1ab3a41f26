import { redirect } from '@sveltejs/kit';
import type { PageLoad } from './$types';

/** A shoot's address without a stage leads to its first one. */
export const load: PageLoad = ({ params }) => redirect(307, `/shoots/${params.id}/gather`);
