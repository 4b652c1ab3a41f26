import { ALL_FORMATS, EncodedPacketSink, Input, UrlSource } from 'mediabunny';
import { ownTimeAt } from '../../core/time/course';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import type { WallFile } from './wall-messages';

/** Pictures decoded ahead of the one that is shown. */
const AHEAD = 7;

interface Opened {
	readonly input: Input;
	readonly sink: EncodedPacketSink;
	readonly config: VideoDecoderConfig;
	/** Time of each picture within the copy, in seconds: rates may vary. */
	readonly times: Float64Array;
}

/** Decodes one file's small copy about a moving time. Every picture is whole in itself, so any can be gone to. */
export class ProxyPlayer {
	/** The picture that shows now. */
	current: VideoFrame | undefined;
	currentIndex = -1;
	problem: string | undefined;
	private opened: Opened | undefined;
	private opening: Promise<void> | undefined;
	private decoder: VideoDecoder | undefined;
	private generation = 0;
	private readonly waiting: { index: number; frame: VideoFrame }[] = [];
	private inFlight: number[] = [];
	private next = 0;
	private pumping = false;
	/** When it was last looked at. */
	private wantedMs = -Infinity;

	constructor(readonly file: WallFile) {}

	/** Whether a line-up time lies within the file. */
	covers(flicks: number): boolean {
		return flicks >= this.file.beginFlicks && flicks < this.file.endFlicks;
	}

	/** Whether it begins soon after a line-up time. */
	beginsWithin(flicks: number, aheadFlicks: number): boolean {
		return this.file.beginFlicks > flicks && this.file.beginFlicks < flicks + aheadFlicks;
	}

	/** Whether it holds a decoder or decoded pictures: both are scarce. */
	get holdsPictures(): boolean {
		return this.decoder !== undefined || this.current !== undefined || this.waiting.length > 0;
	}

	/** Nobody looks at it now: after a while it lets go of its decoder and its pictures. The list of its times stays. */
	rest(nowMs: number, afterMs: number): void {
		if (!this.holdsPictures || nowMs - this.wantedMs < afterMs) return;
		this.restart(0);
		this.current?.close();
		this.current = undefined;
		this.currentIndex = -1;
	}

	/** The picture that should show at a line-up time; -1 before the copy is open or before its first picture. */
	wanted(flicks: number): number {
		if (!this.opened) return -1;
		const seconds = ownTimeAt(this.file.course, flicks) / FLICKS_PER_SECOND + 1e-6;
		const { times } = this.opened;
		let low = 0;
		let high = times.length;
		while (low < high) {
			const middle = (low + high) >> 1;
			if (times[middle]! <= seconds) low = middle + 1;
			else high = middle;
		}
		return low - 1;
	}

	/**
	 * Brings the wanted picture to `current` if it is decoded, and keeps decoding ahead.
	 * @returns whether `current` has changed
	 */
	advance(flicks: number, nowMs: number): boolean {
		this.wantedMs = nowMs;
		if (!this.opened) {
			this.opening ??= this.open();
			return false;
		}
		const wanted = this.wanted(flicks);
		if (wanted < 0) return false;
		const first = this.waiting[0]?.index ?? this.inFlight[0] ?? this.next;
		const atHand = wanted === this.currentIndex || (wanted >= first && wanted < this.next + AHEAD);
		if (!atHand) this.restart(wanted);
		let changed = false;
		while (this.waiting.length > 0 && this.waiting[0]!.index <= wanted) {
			this.current?.close();
			const picture = this.waiting.shift()!;
			this.current = picture.frame;
			this.currentIndex = picture.index;
			changed = true;
		}
		// Far behind: what is not yet decoded is left out.
		if (this.next < wanted && this.inFlight.length === 0) this.next = wanted;
		void this.pump();
		return changed;
	}

	close(): void {
		this.generation++;
		for (const picture of this.waiting.splice(0)) picture.frame.close();
		this.current?.close();
		this.current = undefined;
		if (this.decoder && this.decoder.state !== 'closed') this.decoder.close();
		this.opened?.input.dispose();
		this.opened = undefined;
	}

	private async open(): Promise<void> {
		const generation = this.generation;
		try {
			const input = new Input({
				source: new UrlSource(`/media/${this.file.identity}/${this.file.isWhole ? 'proxy' : 'growing'}`, {
					maxCacheSize: 2 * 2 ** 20
				}),
				formats: ALL_FORMATS
			});
			const track = await input.getPrimaryVideoTrack();
			const config = await track?.getDecoderConfig();
			if (!track || !config) throw new Error('The small picture cannot be read.');
			const sink = new EncodedPacketSink(track);
			const times: number[] = [];
			for await (const packet of sink.packets(undefined, undefined, { metadataOnly: true }))
				times.push(packet.timestamp);
			if (generation !== this.generation) return;
			this.opened = { input, sink, config: { ...config, optimizeForLatency: true }, times: Float64Array.from(times) };
		} catch (error) {
			this.problem = error instanceof Error ? error.message : String(error);
		}
	}

	private restart(index: number): void {
		this.generation++;
		for (const picture of this.waiting.splice(0)) picture.frame.close();
		this.inFlight = [];
		this.next = index;
		if (this.decoder && this.decoder.state !== 'closed') this.decoder.close();
		this.decoder = undefined;
	}

	private ensureDecoder(): VideoDecoder {
		if (this.decoder && this.decoder.state === 'configured') return this.decoder;
		const generation = this.generation;
		const decoder = new VideoDecoder({
			output: (frame) => {
				const index = generation === this.generation ? this.inFlight.shift() : undefined;
				if (index === undefined) frame.close();
				else this.waiting.push({ index, frame });
			},
			error: (error) => {
				if (generation !== this.generation) return;
				this.problem = error.message;
				this.restart(this.next);
			}
		});
		decoder.configure(this.opened!.config);
		this.decoder = decoder;
		return decoder;
	}

	private async pump(): Promise<void> {
		if (this.pumping) return;
		this.pumping = true;
		try {
			while (
				this.opened &&
				this.waiting.length + this.inFlight.length < AHEAD &&
				this.next < this.opened.times.length
			) {
				const { generation } = this;
				const index = this.next;
				const packet = await this.opened.sink.getPacket(this.opened.times[index]! + 1e-4);
				if (generation !== this.generation) continue;
				this.next = index + 1;
				if (!packet) return;
				const decoder = this.ensureDecoder();
				this.inFlight.push(index);
				decoder.decode(packet.toEncodedVideoChunk());
			}
		} catch (error) {
			this.problem = error instanceof Error ? error.message : String(error);
		} finally {
			this.pumping = false;
		}
	}
}
