import { CONFIDENCE_A_STEP, CONFIDENCE_AT_NONE } from '../limits/people';

/** How sure it is that a stretch is a person's. @param evidence its mean @returns 0 to 1 */
export function confidenceOf(evidence: number): number {
	return 1 / (1 + Math.exp(-(CONFIDENCE_AT_NONE + CONFIDENCE_A_STEP * evidence)));
}
