import { STAGES } from '$lib/ui/state/stages';

export function match(param: string): boolean {
	return (STAGES as readonly string[]).includes(param);
}
