import { asPicture, asSound } from '../shoot/air-delay';
import { renderPlan } from '../program/render-plan';
import type { Clip, ClipPart } from '../shoot/clip';
import type { StoredProgram } from '../shoot/decisions';
import type { Device } from '../shoot/device';
import { placedClips } from '../shoot/lookup';
import { toTimeline } from '../shoot/placement';
import { type PlacedClip } from '../shoot/clip';
import type { Shoot } from '../shoot/shoot';
import { flicksToSeconds } from '../time/flicks';
import { type Rational, ratePerSecond } from '../time/rational';

/**
 * OpenTimelineIO's JSON form (schema names and fields from memory of the published specification). Times are counted in
 * the line-up's frames, fractions kept: sound may lie between frames.
 */
type Json = string | number | boolean | null | readonly Json[] | { readonly [key: string]: Json };

/** Where a file of the shoot lies, as an address. */
export type FileAddress = (part: ClipPart) => string;

/** The line-up and its program as one timeline: first the program, then a track for each device. */
export function toOtio(shoot: Shoot, program: StoredProgram, addressOf: FileAddress): string {
	const clips = placedClips(shoot, program.lineUpId);
	const rate = ratePerSecond(shoot.rate);
	const tracks: Json[] = [programTrack(shoot, program, clips, addressOf)];
	for (const device of shoot.devices) {
		const own = clips.filter((clip) => clip.deviceId === device.id);
		if (own.length > 0) tracks.push(deviceTrack(shoot, device, own, addressOf));
	}
	return `${JSON.stringify(
		{
			OTIO_SCHEMA: 'Timeline.1',
			name: shoot.name,
			global_start_time: time(0, rate),
			metadata: {
				open_choir: {
					program_range: [flicksToSeconds(program.inFlicks), flicksToSeconds(program.outFlicks)],
					rate: `${shoot.rate.num}/${shoot.rate.den}`
				}
			},
			tracks: {
				OTIO_SCHEMA: 'Stack.1',
				name: 'tracks',
				metadata: {},
				source_range: null,
				effects: [],
				markers: [],
				enabled: true,
				children: tracks
			}
		},
		null,
		'\t'
	)}\n`;
}

function time(value: number, rate: number): Json {
	return { OTIO_SCHEMA: 'RationalTime.1', value, rate };
}

function range(start: number, duration: number, rate: number): Json {
	return { OTIO_SCHEMA: 'TimeRange.1', start_time: time(start, rate), duration: time(duration, rate) };
}

function gap(frames: number, rate: number): Json {
	return {
		OTIO_SCHEMA: 'Gap.1',
		name: '',
		metadata: {},
		source_range: range(0, frames, rate),
		effects: [],
		markers: [],
		enabled: true
	};
}

function track(name: string, kind: 'Video' | 'Audio', children: readonly Json[], metadata: Json = {}): Json {
	return {
		OTIO_SCHEMA: 'Track.1',
		name,
		kind,
		metadata,
		source_range: null,
		effects: [],
		markers: [],
		enabled: true,
		children
	};
}

function clipItem(
	name: string,
	part: ClipPart,
	sourceRange: Json,
	rateFactor: number,
	rate: number,
	addressOf: FileAddress,
	metadata: Json,
	markers: readonly Json[] = []
): Json {
	const effects: Json[] =
		rateFactor === 1
			? []
			: [
					{
						OTIO_SCHEMA: 'LinearTimeWarp.1',
						name: 'clock correction',
						effect_name: 'LinearTimeWarp',
						metadata: {},
						enabled: true,
						time_scalar: 1 / rateFactor
					}
				];
	return {
		OTIO_SCHEMA: 'Clip.2',
		name,
		metadata: { open_choir: metadata },
		source_range: sourceRange,
		effects,
		markers,
		enabled: true,
		active_media_reference_key: 'DEFAULT_MEDIA',
		media_references: {
			DEFAULT_MEDIA: {
				OTIO_SCHEMA: 'ExternalReference.1',
				name: part.relativePath,
				metadata: {},
				available_range: range(0, flicksToSeconds(part.durationFlicks) * rate, rate),
				available_image_bounds: null,
				target_url: addressOf(part)
			}
		}
	};
}

function programTrack(
	shoot: Shoot,
	program: StoredProgram,
	clips: readonly PlacedClip[],
	addressOf: FileAddress
): Json {
	const rate = ratePerSecond(shoot.rate);
	const plan = renderPlan(shoot, program);
	const parts = new Map(clips.flatMap((clip) => clip.parts.map((part) => [part.fileId, { clip, part }])));
	const children: Json[] = plan.fromFrame > 0 ? [gap(plan.fromFrame, rate)] : [];
	for (const piece of plan.pictures) {
		const frames = piece.toFrame - piece.fromFrame;
		if (!piece.source) {
			children.push(gap(frames, rate));
			continue;
		}
		const { clip, part } = parts.get(piece.source.fileId)!;
		const startSeconds =
			(frameSeconds(piece.fromFrame, shoot.rate) - flicksToSeconds(piece.source.startFlicks)) / piece.source.rateFactor;
		children.push(
			clipItem(clip.name, part, range(startSeconds * rate, frames, rate), piece.source.rateFactor, rate, addressOf, {
				angle: badgeOf(shoot, piece.source.deviceId),
				called: badgeOf(shoot, piece.calledDeviceId)
			})
		);
	}
	return track('Program', 'Video', children);
}

function deviceTrack(shoot: Shoot, device: Device, clips: readonly PlacedClip[], addressOf: FileAddress): Json {
	const rate = ratePerSecond(shoot.rate);
	const children: Json[] = [];
	// Pictures lie on whole frames; what that leaves over goes along with them.
	const onGrid = device.kind === 'camera';
	let at = 0;
	for (const clip of clips) {
		const rateFactor = 1 + clip.placement.ratePpm * 1e-6;
		const laid = onGrid ? asPicture(clip) : asSound(clip);
		for (const part of clip.parts) {
			const exact = flicksToSeconds(toTimeline(laid.placement, part.offsetFlicks)) * rate;
			const length = flicksToSeconds(part.durationFlicks) * rateFactor * rate;
			const from = onGrid ? Math.round(exact) : exact;
			const frames = onGrid ? Math.round(length) : length;
			// Before the timeline's zero nothing can stand: the head is left out.
			const cut = Math.max(0, -from);
			if (cut >= frames) continue;
			const begins = from + cut;
			if (begins > at) children.push(gap(begins - at, rate));
			children.push(
				clipItem(
					clip.name,
					part,
					range(cut / rateFactor, frames - cut, rate),
					rateFactor,
					rate,
					addressOf,
					placementNotes(clip, exact - from),
					markersOf(clip, part, rate)
				)
			);
			at = begins + frames - cut;
		}
	}
	return track(`${device.badge} ${device.name}`, device.kind === 'camera' ? 'Video' : 'Audio', children, {
		open_choir: { badge: device.badge, channel_names: device.channelNames }
	});
}

/** @param remainderFrames how much later than the item it really begins */
function placementNotes(clip: PlacedClip, remainderFrames: number): Json {
	const { placement } = clip;
	return {
		rate_ppm: placement.ratePpm,
		method: placement.method,
		confidence: placement.confidence,
		by_hand: placement.byHand,
		locked: placement.isLocked,
		start_flicks: placement.startFlicks,
		sound_start_flicks: asSound(clip).placement.startFlicks,
		picture_start_flicks: asPicture(clip).placement.startFlicks,
		frame_remainder: remainderFrames,
		...(clip.timecode ? { timecode: clip.timecode } : {})
	};
}

function markersOf(clip: Clip, part: ClipPart, rate: number): readonly Json[] {
	return clip.syncPoints
		.filter(
			(point) => point.mediaFlicks >= part.offsetFlicks && point.mediaFlicks < part.offsetFlicks + part.durationFlicks
		)
		.map((point) => ({
			OTIO_SCHEMA: 'Marker.2',
			name: point.name,
			metadata: {},
			comment: '',
			color: 'ORANGE',
			marked_range: range(flicksToSeconds(point.mediaFlicks - part.offsetFlicks) * rate, 0, rate)
		}));
}

function frameSeconds(frame: number, rate: Rational): number {
	return (frame * rate.den) / rate.num;
}

function badgeOf(shoot: Shoot, deviceId: string): string {
	return shoot.devices.find((device) => device.id === deviceId)?.badge ?? '';
}
