import { getContext, setContext } from 'svelte';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';

/** Closest view: a sample at 48 kHz is 24 pixels wide. */
const MIN_FLICKS_PER_PIXEL = FLICKS_PER_SECOND / 48_000 / 24;

/** Until it is known. */
const USUAL_WIDTH = 1000;

/** Which part of the line-up the score shows; it stays the same from stage to stage. */
export class ScoreView {
	startFlicks = $state(0);
	flicksPerPixel = $state(FLICKS_PER_SECOND / 10);
	/** Height of the waveforms against their usual one. */
	waveScale = $state(1);
	width = $state(0);
	/** A time is being typed that the playhead shall go to. */
	isGoToOpen = $state(false);
	private fitted = false;

	x(flicks: number): number {
		return (flicks - this.startFlicks) / this.flicksPerPixel;
	}

	flicksAt(x: number): number {
		return this.startFlicks + x * this.flicksPerPixel;
	}

	/** Shows a whole range. */
	fit(inFlicks: number, outFlicks: number): void {
		if (this.width <= 0 || outFlicks <= inFlicks) return;
		this.flicksPerPixel = ((outFlicks - inFlicks) * 1.02) / this.width;
		this.startFlicks = inFlicks - (outFlicks - inFlicks) * 0.01;
	}

	/** Shows all the first time there is something to show. */
	fitOnce(inFlicks: number, outFlicks: number): void {
		if (this.fitted || this.width <= 0 || outFlicks <= inFlicks) return;
		this.fitted = true;
		this.fit(inFlicks, outFlicks);
	}

	/** Shows a part that was shown before, if there is something to show in it. */
	restore(
		startFlicks: number,
		flicksPerPixel: number,
		range: { readonly inFlicks: number; readonly outFlicks: number }
	) {
		const isWithin =
			startFlicks < range.outFlicks && startFlicks + flicksPerPixel * (this.width || USUAL_WIDTH) > range.inFlicks;
		if (this.fitted || !isWithin || flicksPerPixel < MIN_FLICKS_PER_PIXEL) return;
		this.fitted = true;
		this.startFlicks = startFlicks;
		this.flicksPerPixel = flicksPerPixel;
	}

	/** Zooms by a factor (less than 1 is closer) about a place on the screen, which stays where it is. */
	zoom(factor: number, aboutX: number, whole: number): void {
		const fixed = this.flicksAt(aboutX);
		const widest = (whole * 1.5) / Math.max(1, this.width);
		this.flicksPerPixel = Math.max(
			MIN_FLICKS_PER_PIXEL,
			Math.min(Math.max(widest, MIN_FLICKS_PER_PIXEL), this.flicksPerPixel * factor)
		);
		this.startFlicks = fixed - aboutX * this.flicksPerPixel;
	}

	pan(pixels: number): void {
		this.startFlicks += pixels * this.flicksPerPixel;
	}

	/** Brings a moment into view if it is not. */
	reveal(flicks: number): void {
		const x = this.x(flicks);
		if (x < 0 || x > this.width * 0.96) this.startFlicks = flicks - this.width * 0.1 * this.flicksPerPixel;
	}
}

const KEY = Symbol('score view');

export function provideScoreView(view: ScoreView): void {
	setContext(KEY, view);
}

export function useScoreView(): ScoreView {
	return getContext<ScoreView>(KEY);
}
