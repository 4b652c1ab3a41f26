import type { Runtime } from '../runtime';
import { gather } from '../stages/gather/gather';
import { lineUp } from '../stages/line-up/line-up';
import { prepare } from '../stages/gather/prepare';
import { renderMovie } from '../stages/hand-off/render-movie';
import type { JobHandler, JobKind } from './job-queue';

/** Which use case does which kind of job. */
export function jobHandlers(runtime: Runtime): Readonly<Record<JobKind, JobHandler>> {
	return {
		gather: (context) => gather(runtime, context),
		prepare: (context) => prepare(runtime, context),
		'line-up': (context) => lineUp(runtime, context),
		render: (context) => renderMovie(runtime, context)
	};
}
