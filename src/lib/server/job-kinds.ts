import type { JobHandlers } from './jobs/job-queue';
import type { Runtime } from './runtime';
import { gather } from './stages/gather/gather';
import { prepare } from './stages/gather/prepare';
import { makeHandOff } from './stages/hand-off/make-hand-off';
import { lineUp } from './stages/line-up/line-up';
import { measure } from './stages/master/measure';

/** How each kind of job is done; what it is told and called stands in the contract. */
export function jobHandlers(runtime: Runtime): JobHandlers {
	return {
		gather: (context) => gather(runtime, context),
		prepare: (context) => prepare(runtime, context),
		measure: (context) => measure(runtime, context),
		// Somebody waits for these.
		'line-up': (context) => runtime.precedence.run('waited for', () => lineUp(runtime, context)),
		'hand-off': (context) => runtime.precedence.run('waited for', () => makeHandOff(runtime, context))
	};
}
