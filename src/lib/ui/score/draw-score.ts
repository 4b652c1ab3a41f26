import { scaleLinear } from 'd3-scale';
import type { Clip } from '../../core/shoot/clip';
import { courseOf, type Placement, toTimeline } from '../../core/shoot/placement';
import { type PlacedClip, placedEnd } from '../../core/shoot/clip';
import { courseAt, straightBetween } from '../../core/time/course';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import { type Mapping, xOf } from './mapping';
import type { PeakedSound, PeakStore } from './peak-store';
import { drawLaneStrip, stripHeight } from './strips/lane-strip';
import type { StripDrawing } from './strips/strip-store';

/** Colours of the theme, read once a drawing. */
export interface ScoreColours {
	readonly ground: string;
	readonly surface: string;
	readonly line: string;
	readonly ink: string;
	readonly quiet: string;
	readonly accent: string;
}

export interface LaneToDraw {
	readonly y: number;
	readonly height: number;
	readonly hue: string;
	/** Where their sound lies. */
	readonly clips: readonly PlacedClip[];
}

const LISTENING_RATE = 48_000;
/** Lower lanes show ribbons only. */
const MIN_WAVE_HEIGHT = 20;

/** Round steps of time between the ruler's marks, at least `leastPixels` apart. */
export function rulerTicks(
	view: Mapping,
	label: (flicks: number) => string,
	frameFlicks: number,
	leastPixels = 90
): readonly { readonly x: number; readonly text: string }[] {
	const least = view.flicksPerPixel * leastPixels;
	const second = FLICKS_PER_SECOND;
	const steps = [
		frameFlicks,
		5 * frameFlicks,
		second / 2,
		second,
		2 * second,
		5 * second,
		10 * second,
		15 * second,
		30 * second,
		60 * second,
		120 * second,
		300 * second,
		600 * second,
		1800 * second,
		3600 * second
	];
	const step = steps.find((one) => one >= least);
	if (step === undefined || least < frameFlicks / 4) {
		// Closer than frames, or wider than hours: decimal steps.
		const seconds = scaleLinear()
			.domain([view.startFlicks / second, (view.startFlicks + view.width * view.flicksPerPixel) / second])
			.range([0, view.width]);
		return seconds
			.ticks(Math.max(2, Math.floor(view.width / leastPixels)))
			.map((value) => ({ x: seconds(value), text: `${Number(value.toFixed(6))} s` }));
	}
	const ticks: { x: number; text: string }[] = [];
	for (
		let index = Math.ceil(view.startFlicks / step);
		index * step < view.startFlicks + view.width * view.flicksPerPixel;
		index++
	) {
		ticks.push({ x: xOf(view, index * step), text: label(index * step) });
	}
	return ticks;
}

/** One lane: clips as ribbons with their pictures, where there is room, and their waveforms. */
export function drawLane(
	context: CanvasRenderingContext2D,
	lane: LaneToDraw,
	view: Mapping,
	peaks: PeakStore,
	waveScale: number,
	colours: ScoreColours,
	selectedClipId: string | undefined,
	strips: StripDrawing
): void {
	for (const clip of lane.clips) {
		const from = xOf(view, clip.placement.startFlicks);
		const to = xOf(view, placedEnd(clip));
		if (to < 0 || from > view.width) continue;
		drawRibbon(context, lane, clip, from, to, colours, clip.id === selectedClipId);
		const pictured = stripHeight(clip, lane.height);
		if (pictured > 0) drawLaneStrip(context, clip, lane.y, pictured, view, strips);
		drawWave(context, below(lane, pictured), clip, view, peaks, waveScale);
		drawTicks(context, lane, clip, clip.placement, view, colours);
		drawName(context, lane, clip, Math.max(0, from), to, colours);
	}
	context.globalAlpha = 1;
}

function below(lane: LaneToDraw, height: number): LaneToDraw {
	return { ...lane, y: lane.y + height, height: lane.height - height };
}

/** Lanes of at least this height have room for names. */
const NAME_LANE_HEIGHT = 40;

const FONT = '11px "Atkinson Hyperlegible Next Variable", sans-serif';
const PAPER_HEIGHT = 14;

/** Paper for words over pictures and waveforms. */
function drawPaper(
	context: CanvasRenderingContext2D,
	x: number,
	y: number,
	width: number,
	{ surface }: ScoreColours
): void {
	context.globalAlpha = 0.8;
	context.fillStyle = surface;
	context.fillRect(x, y, width, PAPER_HEIGHT);
	context.globalAlpha = 1;
}

/** The clip's name, with its confidence where there is doubt, on a strip of paper over the waveform's edge. */
function drawName(
	context: CanvasRenderingContext2D,
	lane: LaneToDraw,
	clip: PlacedClip,
	from: number,
	to: number,
	colours: ScoreColours
): void {
	if (lane.height < NAME_LANE_HEIGHT || to - from < 60) return;
	const { confidence } = clip.placement;
	const text = confidence < 0.9 ? `${clip.name} · ${Math.round(confidence * 100)}%, doubtful` : clip.name;
	context.font = FONT;
	const width = Math.min(to - from - 14, context.measureText(text).width);
	context.save();
	context.beginPath();
	context.rect(from + 7, lane.y + 4, width + 6, 14);
	context.clip();
	drawPaper(context, from + 7, lane.y + 4, width + 6, colours);
	context.fillStyle = colours.quiet;
	context.fillText(text, from + 10, lane.y + 15);
	context.restore();
}

function drawRibbon(
	context: CanvasRenderingContext2D,
	lane: LaneToDraw,
	clip: PlacedClip,
	from: number,
	to: number,
	colours: ScoreColours,
	selected: boolean
): void {
	const y = lane.y + 2;
	const height = lane.height - 4;
	const left = Math.max(-2, from);
	const width = Math.max(1, Math.min(to, context.canvas.width) - left);
	context.fillStyle = colours.surface;
	context.fillRect(left, y, width, height);
	context.strokeStyle = selected ? colours.accent : colours.line;
	context.lineWidth = selected ? 2 : 1;
	context.strokeRect(left + 0.5, y + 0.5, width - 1, height - 1);
	context.fillStyle = lane.hue;
	context.fillRect(left, y, Math.min(4, width), height);
	if (clip.placement.confidence < 0.9) hatch(context, left, y, width, height, colours.quiet);
	// A notch where one file ends and the next begins.
	for (const part of clip.parts.slice(1)) {
		const x = from + ((to - from) * part.offsetFlicks) / clip.durationFlicks;
		context.fillStyle = colours.quiet;
		context.beginPath();
		context.moveTo(x - 4, y);
		context.lineTo(x + 4, y);
		context.lineTo(x, y + 6);
		context.fill();
		context.fillRect(x - 0.5, y, 1, height);
	}
	if (clip.placement.byHand) drawPin(context, left + 10, y + 7, colours.accent);
}

function hatch(
	context: CanvasRenderingContext2D,
	x: number,
	y: number,
	width: number,
	height: number,
	colour: string
): void {
	context.save();
	context.beginPath();
	context.rect(x, y, width, height);
	context.clip();
	context.strokeStyle = colour;
	context.globalAlpha *= 0.35;
	context.beginPath();
	for (let at = -height; at < width; at += 8) {
		context.moveTo(x + at, y + height);
		context.lineTo(x + at + height, y);
	}
	context.stroke();
	context.restore();
}

function drawPin(context: CanvasRenderingContext2D, x: number, y: number, colour: string): void {
	context.fillStyle = colour;
	context.beginPath();
	context.arc(x, y, 3, 0, 2 * Math.PI);
	context.fill();
	context.fillRect(x - 0.5, y, 1, 7);
}

/** A clip's usual peaks fill this much of its lane, however soft its recorder was set: for the eye only. */
const USUAL_HEIGHT = 0.7;
const MAX_OWN_SCALE = 24;

function ownScale(clip: PlacedClip, peaks: PeakStore): number {
	let loudest = 0;
	for (const { identity, sound } of clip.parts) {
		if (sound?.listeningSamples) loudest = Math.max(loudest, peaks.usualPeak(identity, sound.listeningSamples) ?? 0);
	}
	return loudest > 0 ? Math.max(1, Math.min(MAX_OWN_SCALE, USUAL_HEIGHT / loudest)) : 1;
}

/** Kept from one drawing to the next: no garbage while one zooms. */
let envelopes = new Float32Array(4096);

export function drawWave(
	context: CanvasRenderingContext2D,
	lane: LaneToDraw,
	clip: PlacedClip,
	view: Mapping,
	peaks: PeakStore,
	waveScale: number
): void {
	// Folded to a ribbon.
	if (lane.height < MIN_WAVE_HEIGHT) return;
	const middle = lane.y + lane.height / 2;
	const half = (lane.height - 6) / 2;
	const scale = waveScale * ownScale(clip, peaks);
	// What is seen at a time is straight enough.
	const seenFlicks = view.startFlicks + view.width * view.flicksPerPixel;
	const line = straightBetween(courseOf(clip.placement), view.startFlicks, seenFlicks);
	const samplesPerFlick = LISTENING_RATE / FLICKS_PER_SECOND / line.rateFactor;
	const samplesPerPixel = view.flicksPerPixel * samplesPerFlick;
	context.fillStyle = lane.hue;
	context.strokeStyle = lane.hue;
	for (const part of clip.parts) {
		const { sound } = part;
		if (!sound?.listeningSamples) continue;
		const begins = courseAt(line, part.offsetFlicks + sound.startFlicks);
		const firstX = Math.max(0, Math.floor(xOf(view, begins)));
		const lastX = Math.min(view.width, Math.ceil(xOf(view, begins + sound.listeningSamples / samplesPerFlick)));
		const position = (x: number) => (view.startFlicks + x * view.flicksPerPixel - begins) * samplesPerFlick;
		const peaked: PeakedSound = {
			fileId: part.fileId,
			identity: part.identity,
			samples: sound.listeningSamples,
			channels: sound.channels,
			isDeep: sound.isDeep ?? false
		};
		if (samplesPerPixel < 1) {
			drawSamples(context, lane, peaked, position, firstX, lastX, samplesPerPixel, peaks, scale);
			continue;
		}
		const count = Math.max(0, lastX - firstX);
		if (envelopes.length < 2 * count) envelopes = new Float32Array(2 * count);
		peaks.fillEnvelopes(envelopes, peaked, position(firstX), samplesPerPixel, count);
		for (let x = 0; x < count; x++) {
			const least = envelopes[2 * x]!;
			if (Number.isNaN(least)) continue;
			const top = Math.max(-half, Math.min(half, -envelopes[2 * x + 1]! * half * scale));
			const bottom = Math.max(-half, Math.min(half, -least * half * scale));
			context.fillRect(firstX + x, middle + top, 1, Math.max(1, bottom - top));
		}
	}
}

/** Closer than a sample a pixel: a line through the first channel's samples, a dot on each. */
function drawSamples(
	context: CanvasRenderingContext2D,
	lane: LaneToDraw,
	sound: PeakedSound,
	position: (x: number) => number,
	firstX: number,
	lastX: number,
	samplesPerPixel: number,
	peaks: PeakStore,
	waveScale: number
): void {
	const middle = lane.y + lane.height / 2;
	const half = (lane.height - 6) / 2;
	context.lineWidth = 1.25;
	context.beginPath();
	const origin = position(0);
	let begun = false;
	for (
		let index = Math.max(0, Math.floor(position(firstX)));
		index <= Math.min(sound.samples - 1, Math.ceil(position(lastX)));
		index++
	) {
		const value = peaks.sample(sound, 0, index);
		if (value === undefined) continue;
		const x = (index - origin) / samplesPerPixel;
		const y = middle - Math.max(-half, Math.min(half, value * half * waveScale));
		if (begun) context.lineTo(x, y);
		else context.moveTo(x, y);
		begun = true;
		if (samplesPerPixel < 0.2) context.fillRect(x - 1.5, y - 1.5, 3, 3);
	}
	context.stroke();
}

/** Sharp sounds as small ticks above the waveform, sync points as flags. */
function drawTicks(
	context: CanvasRenderingContext2D,
	lane: LaneToDraw,
	clip: Clip,
	placement: Placement,
	view: Mapping,
	colours: ScoreColours
): void {
	context.fillStyle = colours.ink;
	for (const sound of clip.sharpSounds) {
		const x = xOf(view, toTimeline(placement, sound));
		if (x >= 0 && x <= view.width) context.fillRect(x - 0.5, lane.y + 2, 1, 5);
	}
	for (const point of clip.syncPoints) {
		const x = xOf(view, toTimeline(placement, point.mediaFlicks));
		if (x < -80 || x > view.width) continue;
		context.fillStyle = colours.accent;
		context.fillRect(x - 0.5, lane.y + 2, 1.5, lane.height - 4);
		context.beginPath();
		context.moveTo(x, lane.y + 3);
		context.lineTo(x + 9, lane.y + 7);
		context.lineTo(x, lane.y + 11);
		context.fill();
		context.font = FONT;
		// At the right edge the name stands before its flag.
		const width = context.measureText(point.name).width;
		const left = x + 12 + width < view.width ? x + 12 : x - width - 4;
		if (lane.height >= NAME_LANE_HEIGHT) drawPaper(context, left - 2, lane.y + 2, width + 4, colours);
		context.fillStyle = colours.ink;
		context.fillText(point.name, left, lane.y + 12);
	}
}
