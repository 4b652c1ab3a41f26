import { prefersReducedMotion } from 'svelte/motion';

/** How what opens over the page comes in: at once where motion is not wanted. */
export function openingMotion(): { readonly duration: number } {
	return { duration: prefersReducedMotion.current ? 0 : 100 };
}
