import { redirect } from '@sveltejs/kit';
import { openingStage } from '$lib/ui/state/left-off';
import type { PageLoad } from './$types';

/** A shoot's address without a stage leads to where the work was left. */
export const load: PageLoad = ({ params }) => redirect(307, `/shoots/${params.id}/${openingStage(params.id)}`);
