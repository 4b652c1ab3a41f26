/**
 * OpenTimelineIO's JSON form: schema names and fields from memory of the published specification. Of a stack the last child
 * lies on top (memory), and what is not enabled is not shown.
 */
export type Json = string | number | boolean | null | readonly Json[] | { readonly [key: string]: Json };

/** A time counted in units of a rate. */
export interface Counted {
	readonly value: number;
	readonly rate: number;
}

function time({ value, rate }: Counted): Json {
	return { OTIO_SCHEMA: 'RationalTime.1', value, rate };
}

export function range(start: Counted, duration: Counted): Json {
	return { OTIO_SCHEMA: 'TimeRange.1', start_time: time(start), duration: time(duration) };
}

const COMPOSED = { effects: [], markers: [] } as const;

export function gap(duration: Counted, metadata: Json = {}): Json {
	return {
		OTIO_SCHEMA: 'Gap.1',
		name: '',
		metadata,
		source_range: range({ value: 0, rate: duration.rate }, duration),
		...COMPOSED,
		enabled: true
	};
}

export function track(
	name: string,
	kind: 'Video' | 'Audio',
	children: readonly Json[],
	{ enabled, metadata = {} }: { readonly enabled: boolean; readonly metadata?: Json }
): Json {
	return { OTIO_SCHEMA: 'Track.1', name, kind, metadata, source_range: null, ...COMPOSED, enabled, children };
}

export function timeline(name: string, children: readonly Json[], start: Counted, metadata: Json): Json {
	return {
		OTIO_SCHEMA: 'Timeline.1',
		name,
		global_start_time: time(start),
		metadata,
		tracks: {
			OTIO_SCHEMA: 'Stack.1',
			name: 'tracks',
			metadata: {},
			source_range: null,
			...COMPOSED,
			enabled: true,
			children
		}
	};
}

export interface ClipParts {
	readonly name: string;
	readonly sourceRange: Json;
	readonly availableRange: Json;
	readonly address: string;
	readonly mediaName: string;
	readonly metadata: Json;
	readonly markers?: readonly Json[];
	/** How much faster than its own time the media runs; 1 for not at all. */
	readonly timeScalar: number;
}

export function clip(parts: ClipParts): Json {
	const warp = {
		OTIO_SCHEMA: 'LinearTimeWarp.1',
		name: 'clock correction',
		effect_name: 'LinearTimeWarp',
		metadata: {},
		enabled: true,
		time_scalar: parts.timeScalar
	};
	return {
		OTIO_SCHEMA: 'Clip.2',
		name: parts.name,
		metadata: { open_choir: parts.metadata },
		source_range: parts.sourceRange,
		effects: parts.timeScalar === 1 ? [] : [warp],
		markers: parts.markers ?? [],
		enabled: true,
		active_media_reference_key: 'DEFAULT_MEDIA',
		media_references: {
			DEFAULT_MEDIA: {
				OTIO_SCHEMA: 'ExternalReference.1',
				name: parts.mediaName,
				metadata: {},
				available_range: parts.availableRange,
				available_image_bounds: null,
				target_url: parts.address
			}
		}
	};
}

export function marker(name: string, at: Counted): Json {
	return {
		OTIO_SCHEMA: 'Marker.2',
		name,
		metadata: {},
		comment: '',
		color: 'ORANGE',
		marked_range: range(at, { value: 0, rate: at.rate })
	};
}
