import type { Change } from './changes';
import type { JobView } from './jobs';

/** What happens, for whoever listens: a job has moved on, a shoot has changed, a shoot has gone or come back. */
export type ServerEvent =
	| { readonly type: 'job'; readonly job: JobView }
	| { readonly type: 'change'; readonly change: Change }
	| { readonly type: 'shoots' };
