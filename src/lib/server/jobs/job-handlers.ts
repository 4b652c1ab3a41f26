import type { Runtime } from '../runtime';
import { gather } from '../shoots/gather';
import { lineUp } from '../shoots/line-up';
import { prepare } from '../shoots/prepare';
import { renderMovie } from '../shoots/render-movie';
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
