import type { ScoreColours } from './draw-score';

/** Size of a canvas in real picture points, empty. */
export function prepareCanvas(canvas: HTMLCanvasElement, width: number, height: number): CanvasRenderingContext2D {
	const ratio = devicePixelRatio;
	if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
		canvas.width = Math.round(width * ratio);
		canvas.height = Math.round(height * ratio);
	}
	const context = canvas.getContext('2d')!;
	context.setTransform(ratio, 0, 0, ratio, 0, 0);
	context.clearRect(0, 0, width, height);
	return context;
}

export function themeColours(): ScoreColours {
	const of = (name: string) => colourOf(name);
	return {
		ground: of('--ground'),
		surface: of('--surface'),
		line: of('--line'),
		ink: of('--ink'),
		quiet: of('--quiet'),
		accent: of('--accent')
	};
}

/** @param name of a property, or `var(--name)` */
export function colourOf(name: string): string {
	const bare = /--[\w-]+/.exec(name)?.[0] ?? name;
	return getComputedStyle(document.documentElement).getPropertyValue(bare).trim();
}

/** Calls back when paper turns to night, or back. @returns the end of it */
export function onThemeChange(changed: () => void): () => void {
	const watcher = new MutationObserver(changed);
	watcher.observe(document.documentElement, { attributes: true, attributeFilter: ['class'] });
	return () => watcher.disconnect();
}
