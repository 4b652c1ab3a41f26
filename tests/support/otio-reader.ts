/**
 * A strict reader of OpenTimelineIO, written from memory of the specification and from nothing of the project: it says what
 * another program would show, and refuses what that could not read.
 */
interface Time {
	readonly OTIO_SCHEMA: string;
	readonly value: number;
	readonly rate: number;
}
interface Range {
	readonly OTIO_SCHEMA: string;
	readonly start_time: Time;
	readonly duration: Time;
}
export interface OtioItem {
	readonly OTIO_SCHEMA: string;
	readonly name: string;
	readonly kind?: string;
	readonly enabled: boolean;
	readonly metadata: Readonly<Record<string, unknown>>;
	readonly source_range: Range | null;
	readonly children?: readonly OtioItem[];
	readonly effects?: readonly { readonly OTIO_SCHEMA: string; readonly time_scalar: number }[];
	readonly markers?: readonly { readonly name: string; readonly marked_range: Range }[];
	readonly media_references?: Readonly<
		Record<string, { readonly target_url: string; readonly available_range: Range }>
	>;
	readonly active_media_reference_key?: string;
}
export interface OtioTimeline {
	readonly OTIO_SCHEMA: string;
	readonly global_start_time: Time;
	readonly metadata: Readonly<Record<string, unknown>>;
	readonly tracks: OtioItem;
}

/** A clip on the timeline, as it is shown. Times in seconds. */
export interface ShownClip {
	readonly track: string;
	readonly name: string;
	readonly url: string;
	readonly beginsSeconds: number;
	readonly endsSeconds: number;
	/** From the first frame or sample of the media. */
	readonly mediaSeconds: number;
	/** The media's own timecode there. */
	readonly timecodeSeconds: number;
	readonly speed: number;
	readonly item: OtioItem;
}

const seconds = ({ value, rate }: Time) => value / rate;

/** @throws Error it is not what the specification allows */
export function readOtio(text: string): OtioTimeline {
	const timeline = JSON.parse(text) as OtioTimeline;
	must(timeline.OTIO_SCHEMA === 'Timeline.1', 'a timeline');
	must(timeline.tracks.OTIO_SCHEMA === 'Stack.1', 'a stack of tracks');
	for (const track of timeline.tracks.children!) {
		must(track.OTIO_SCHEMA === 'Track.1' && (track.kind === 'Video' || track.kind === 'Audio'), 'a track with a kind');
		for (const item of track.children!) check(item);
	}
	return timeline;
}

function check(item: OtioItem): void {
	must(item.OTIO_SCHEMA === 'Clip.2' || item.OTIO_SCHEMA === 'Gap.1', `a clip or a gap, not ${item.OTIO_SCHEMA}`);
	must(item.source_range !== null && item.source_range.duration.value > 0, 'a length above zero');
	for (const { value, rate } of [item.source_range!.start_time, item.source_range!.duration])
		must(Number.isFinite(value) && rate > 0, 'finite times');
	if (item.OTIO_SCHEMA === 'Gap.1') return;
	const media = item.media_references![item.active_media_reference_key!]!;
	const available = media.available_range;
	const begins = seconds(item.source_range!.start_time);
	const ends = begins + seconds(item.source_range!.duration);
	// A frame of the media is what rounding to whole frames leaves over.
	const frame = 1 / available.start_time.rate;
	must(begins >= seconds(available.start_time) - 1e-9, `${item.name}: within the media at its beginning`);
	must(
		ends <= seconds(available.start_time) + seconds(available.duration) + frame + 1e-9,
		`${item.name}: within the media at its end`
	);
	for (const { marked_range } of item.markers ?? [])
		must(
			seconds(marked_range.start_time) >= seconds(available.start_time) &&
				seconds(marked_range.start_time) <= seconds(available.start_time) + seconds(available.duration),
			`${item.name}: markers in the media`
		);
}

function must(isSo: boolean, what: string): void {
	if (!isSo) throw new Error(`Not readable: expected ${what}.`);
}

/** All clips of a kind of track with the times they lie at. */
export function clipsOf(timeline: OtioTimeline, isWanted: (track: OtioItem) => boolean): readonly ShownClip[] {
	return timeline.tracks.children!.filter(isWanted).flatMap((track) => {
		let at = 0;
		return track.children!.flatMap((item): ShownClip[] => {
			const beginsSeconds = at;
			at += seconds(item.source_range!.duration);
			if (item.OTIO_SCHEMA === 'Gap.1') return [];
			const media = item.media_references![item.active_media_reference_key!]!;
			const start = seconds(item.source_range!.start_time);
			return [
				{
					track: track.name,
					name: item.name,
					url: media.target_url,
					beginsSeconds,
					endsSeconds: at,
					mediaSeconds: start - seconds(media.available_range.start_time),
					timecodeSeconds: start,
					speed: item.effects?.[0]?.time_scalar ?? 1,
					item
				}
			];
		});
	});
}

/** What is seen: of the enabled video tracks the topmost that has a clip; the last child of a stack is on top. */
export function seenAt(timeline: OtioTimeline, atSeconds: number): ShownClip | undefined {
	const tracks = timeline.tracks.children!.filter((track) => track.kind === 'Video' && track.enabled).reverse();
	for (const track of tracks) {
		const found = clipsOf(timeline, (one) => one === track).find(
			(one) => atSeconds >= one.beginsSeconds - 1e-9 && atSeconds < one.endsSeconds - 1e-9
		);
		if (found) return found;
	}
	return undefined;
}

/** What is heard: every enabled audio track. */
export function heardAt(timeline: OtioTimeline, atSeconds: number): readonly ShownClip[] {
	return clipsOf(timeline, (track) => track.kind === 'Audio' && track.enabled).filter(
		(one) => atSeconds >= one.beginsSeconds && atSeconds < one.endsSeconds
	);
}
