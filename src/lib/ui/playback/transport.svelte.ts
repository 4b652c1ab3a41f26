import pLimit from 'p-limit';
import { getContext, setContext } from 'svelte';
import type { SoundInterval } from '../../core/program/mixed-sound';
import type { PlacedClip } from '../../core/shoot/clip';
import { decibelsToFactor, panGains } from '../../core/master/gains';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import { HeardMeter } from './heard-meter.svelte';
import { LISTENING_RATE } from './listening-sound';
import { type Loop, type PlayCourse, playCourse } from './play-course';
import { SoundLayer } from './sound-layer';
import { MIX } from './sound-messages';

/** A channel that is heard. */
export interface HeardChannel {
	readonly deviceId: string;
	readonly channel: number;
	readonly gainDb: number;
	readonly pan: number;
}

const CHUNK_SAMPLES = LISTENING_RATE / 2;
/** Sound is laid ahead by this. */
const AHEAD_SECONDS = 2;
/** Between "play" and the first sample: time to lay the first chunks. */
const LEAD_SECONDS = 0.06;
/** The page is drawn anew this often while playing, about every second refresh of the screen. */
const SHOW_EVERY_MS = 30;
/** An output that has not started after so long does not start. */
const OUTPUT_STARTS_WITHIN_MS = 4000;
/** What is not heard yet is laid by so many requests at a time: what is heard and seen must find the way free. */
const MAX_LAID_BESIDE = 2;
/** Switching what is heard takes this long, so that it does not click. */
const SWITCH_SECONDS = 0.004;

const OUTPUT_PROBLEM =
	'The sound output does not start. Choose or plug in an output for sound in the system, then play again.';

/** A change of the mix is heard from the first chunk on that is so far away. */
const ANEW_SECONDS = 0.25;

/** Playing from one jump of the clock to the next. */
interface Run {
	readonly abort: AbortController;
	readonly sources: Set<AudioBufferSourceNode>;
	/** Of the mix, by chunk. */
	readonly mix: Map<number, AudioBufferSourceNode>;
}

interface DeviceBus {
	readonly splitter: ChannelSplitterNode;
	readonly left: readonly GainNode[];
	readonly right: readonly GainNode[];
}

/** What other players follow: where the audio clock is, and since when. */
export interface ClockAnchor {
	readonly playing: boolean;
	/** Position at `atMs`. */
	readonly flicks: number;
	/** Milliseconds since 1970, from the page's monotonic clock. */
	readonly atMs: number;
}

/**
 * Plays the line-up. The audio clock is the only master: pictures follow it. All devices' sound is laid on whole
 * samples of one clock; what is heard of it is only a matter of gains, so that switching happens at the same moment.
 */
export class Transport {
	playing = $state(false);
	/** Position as last shown. */
	shownFlicks = $state(0);
	problem = $state<string>();
	/** How loud what is heard is. */
	readonly meter = new HeardMeter();

	private context: AudioContext | undefined;
	private merger: ChannelMergerNode | undefined;
	private readonly buses = new Map<string, DeviceBus>();
	private readonly layer = new SoundLayer();
	private readonly beside = pLimit(MAX_LAID_BESIDE);
	private heard: readonly HeardChannel[] = [];
	private ready: 'heard' | 'all' = 'all';
	private range = { inFlicks: 0, outFlicks: 0 };
	private loop: Loop | undefined;
	private course = playCourse(0, undefined);
	private beganTime = 0;
	private run: Run | undefined;
	private readonly listeners = new Set<(anchor: ClockAnchor) => void>();

	/**
	 * What there is to play. Playing goes on from where it is.
	 * @param clips where their sound lies
	 */
	setMaterial(clips: readonly PlacedClip[], range: { readonly inFlicks: number; readonly outFlicks: number }): void {
		this.layer.setMaterial(clips);
		this.range = range;
		if (!this.playing) this.setPosition(this.shownFlicks);
		else void this.play(this.now());
	}

	/** What the audience hears from now on; what is laid of it already is laid anew. */
	setMix(intervals: readonly SoundInterval[]): void {
		this.layer.setMix(intervals);
		if (this.playing && this.run) this.layMixAnew(this.run);
	}

	/**
	 * What is laid while playing: the channels that are heard, or all of all devices where the editor goes from one to another.
	 * The sound of many devices costs what the pictures need.
	 */
	setReady(which: 'heard' | 'all'): void {
		if (this.ready === which) return;
		this.ready = which;
		if (which === 'all' && this.playing) void this.play(this.now());
	}

	/** What is heard from now on, playing or not. */
	setHeard(heard: readonly HeardChannel[]): void {
		const nameOf = ({ deviceId, channel }: HeardChannel) => `${deviceId} ${channel}`;
		const known = new Set(this.heard.map(nameOf));
		this.heard = heard;
		this.applyGains();
		const isNew = heard.some((one) => !known.has(nameOf(one)));
		if (isNew && this.ready === 'heard' && this.playing) void this.play(this.now());
	}

	/** Plays a stretch round and round, or no longer. */
	setLoop(loop: Loop | undefined): void {
		if (this.loop?.inFlicks === loop?.inFlicks && this.loop?.outFlicks === loop?.outFlicks) return;
		this.loop = loop;
		if (this.playing) void this.play(this.now());
	}

	/** The position at this very moment, by the audio clock. */
	now(): number {
		if (!this.playing || !this.context) return this.shownFlicks;
		const stamp = this.context.getOutputTimestamp();
		const heardTime =
			stamp.contextTime && stamp.performanceTime
				? stamp.contextTime + (performance.now() - stamp.performanceTime) / 1000
				: this.context.currentTime;
		return this.course.at(Math.max(0, (heardTime - this.beganTime) * LISTENING_RATE));
	}

	/** Calls back whenever the clock jumps, and four times a second while it runs. @returns the end of it */
	follow(listener: (anchor: ClockAnchor) => void): () => void {
		this.listeners.add(listener);
		listener(this.anchor());
		return () => this.listeners.delete(listener);
	}

	async toggle(): Promise<void> {
		if (this.playing) this.pause();
		else await this.play();
	}

	/** Plays from a position, or from where it stands; at the end from the beginning. */
	async play(fromFlicks = this.shownFlicks): Promise<void> {
		this.stopRun();
		const run: Run = { abort: new AbortController(), sources: new Set(), mix: new Map() };
		this.run = run;
		const from =
			fromFlicks >= this.range.outFlicks - FLICKS_PER_SECOND / 50
				? this.range.inFlicks
				: Math.max(fromFlicks, this.range.inFlicks);
		const course = playCourse(from, this.loop);
		let context: AudioContext;
		let first: ReadonlyMap<string, AudioBuffer>;
		try {
			[context, first] = await Promise.all([this.audio(), this.layHeard(course, 0, run.abort.signal)]);
		} catch (error) {
			if (run.abort.signal.aborted) return;
			this.stopRun();
			this.playing = false;
			this.problem = error instanceof Error ? error.message : String(error);
			return;
		}
		if (this.run !== run) return;
		this.problem = undefined;
		this.beganTime = Math.ceil((context.currentTime + LEAD_SECONDS) * LISTENING_RATE) / LISTENING_RATE;
		this.course = course;
		this.playing = true;
		this.schedule(first, 0, run);
		this.tell();
		this.watch(run);
		void this.layAhead(run);
	}

	pause(): void {
		const at = this.now();
		this.stopRun();
		this.playing = false;
		this.setPosition(at);
	}

	/** Where the playhead stands once there is something to play. */
	startAt(flicks: number): void {
		this.shownFlicks = flicks;
	}

	/** Goes to a position; playing goes on from there. */
	goTo(flicks: number): void {
		const at = Math.max(this.range.inFlicks, Math.min(this.range.outFlicks, flicks));
		if (this.playing) {
			this.shownFlicks = at;
			void this.play(at);
		} else this.setPosition(at);
	}

	async close(): Promise<void> {
		this.stopRun();
		this.listeners.clear();
		this.layer.close();
		await this.context?.close();
	}

	private setPosition(flicks: number): void {
		this.shownFlicks = Math.max(this.range.inFlicks, Math.min(this.range.outFlicks, flicks));
		this.tell();
	}

	private anchor(): ClockAnchor {
		return { playing: this.playing, flicks: this.now(), atMs: performance.timeOrigin + performance.now() };
	}

	private tell(): void {
		const anchor = this.anchor();
		for (const listener of this.listeners) listener(anchor);
	}

	/** @throws Error the output does not start: some browsers wait for it for ever */
	private async audio(): Promise<AudioContext> {
		if (!this.context) {
			this.context = new AudioContext({ sampleRate: LISTENING_RATE, latencyHint: 'interactive' });
			this.merger = this.context.createChannelMerger(2);
			this.merger.connect(this.context.destination);
			// Without it all else goes on.
			void this.meter.attach(this.context, this.merger).catch(() => undefined);
		}
		let timer: ReturnType<typeof setTimeout> | undefined;
		const tooLate = new Promise<never>((_, reject) => {
			timer = setTimeout(() => reject(new Error(OUTPUT_PROBLEM)), OUTPUT_STARTS_WITHIN_MS);
		});
		try {
			await Promise.race([this.context.resume(), tooLate]);
		} finally {
			clearTimeout(timer);
		}
		return this.context;
	}

	private stopRun(): void {
		this.run?.abort.abort();
		for (const source of this.run?.sources ?? []) source.stop();
		this.run = undefined;
	}

	/** Follows the clock on the screen, and ends at the end. */
	private watch(run: Run): void {
		let lastTold = performance.now();
		let lastShown = -Infinity;
		const step = (time: number) => {
			if (this.run !== run) return;
			requestAnimationFrame(step);
			// Timecode and playhead need no more than the pictures do; the time is the decoders'.
			if (time - lastShown < SHOW_EVERY_MS) return;
			lastShown = time;
			this.shownFlicks = this.now();
			if (this.shownFlicks >= this.range.outFlicks) {
				this.pause();
				return;
			}
			if (performance.now() - lastTold > 250) {
				lastTold = performance.now();
				this.tell();
			}
		};
		requestAnimationFrame(step);
	}

	private async layAhead(run: Run): Promise<void> {
		this.layBeside(run, 0);
		for (let index = 1; this.run === run; index++) {
			if (this.course.at(index * CHUNK_SAMPLES) >= this.range.outFlicks) return;
			const ahead = this.beganTime + (index * CHUNK_SAMPLES) / LISTENING_RATE - this.context!.currentTime;
			if (ahead > AHEAD_SECONDS) await new Promise((resolve) => setTimeout(resolve, (ahead - AHEAD_SECONDS) * 1000));
			try {
				const chunk = await this.layHeard(this.course, index, run.abort.signal);
				if (this.run === run) this.schedule(chunk, index, run);
			} catch (error) {
				if (run.abort.signal.aborted) return;
				this.problem = error instanceof Error ? error.message : String(error);
			}
			this.layBeside(run, index);
		}
	}

	/** Channels of a device that are laid. */
	private laidChannels(deviceId: string): readonly number[] {
		if (this.ready === 'all') return [...Array(this.layer.channels.get(deviceId) ?? 0).keys()];
		return this.heard.flatMap((one) => (one.deviceId === deviceId ? [one.channel] : []));
	}

	private isHeard(deviceId: string): boolean {
		return this.heard.some((one) => one.deviceId === deviceId);
	}

	/** A chunk of all that is heard. */
	private async layHeard(
		course: PlayCourse,
		index: number,
		signal: AbortSignal
	): Promise<ReadonlyMap<string, AudioBuffer>> {
		const heard = [...this.layer.channels.keys()].filter((deviceId) => this.isHeard(deviceId));
		const buffers = await Promise.all(
			heard.map(
				async (deviceId) => [deviceId, await this.deviceChunk(deviceId, course, index, 'high', signal)] as const
			)
		);
		return new Map(buffers.filter((one): one is [string, AudioBuffer] => one[1] !== undefined));
	}

	/** Lays a chunk of what may be heard next, each device as soon as it comes. */
	private layBeside(run: Run, index: number): void {
		if (this.ready !== 'all') return;
		const { course } = this;
		const { signal } = run.abort;
		for (const deviceId of this.layer.channels.keys()) {
			if (this.isHeard(deviceId)) continue;
			void this.beside(async () => {
				if (this.run !== run) return;
				const buffer = await this.deviceChunk(deviceId, course, index, 'low', signal);
				if (buffer && this.run === run) this.schedule(new Map([[deviceId, buffer]]), index, run);
			}).catch(() => undefined);
		}
	}

	/** Lays what comes of the mix once more, from the chunk on that can be there in time. */
	private layMixAnew(run: Run): void {
		const { course } = this;
		const soonest = this.context!.currentTime + ANEW_SECONDS - this.beganTime;
		const from = Math.max(0, Math.ceil(soonest / secondsOfChunk()));
		for (const [index, old] of run.mix) {
			if (index < from) continue;
			void this.deviceChunk(MIX, course, index, 'high', run.abort.signal).then(
				(buffer) => {
					if (this.run !== run || run.mix.get(index) !== old) return;
					if (this.chunkTime(index) < this.context!.currentTime) return;
					old.stop(this.chunkTime(index));
					if (buffer) this.schedule(new Map([[MIX, buffer]]), index, run);
				},
				() => undefined
			);
		}
	}

	/** A chunk of one device, in pieces where a loop jumps back. */
	private async deviceChunk(
		deviceId: string,
		course: PlayCourse,
		index: number,
		priority: 'high' | 'low',
		signal: AbortSignal
	): Promise<AudioBuffer | undefined> {
		const channels = this.laidChannels(deviceId);
		const first = index * CHUNK_SAMPLES;
		const pieces: { readonly at: number; readonly rows: readonly Float32Array<ArrayBuffer>[] }[] = [];
		for (let at = 0; at < CHUNK_SAMPLES;) {
			const samples = Math.min(CHUNK_SAMPLES - at, course.untilJump(first + at));
			const wanted = { channels, fromFlicks: course.at(first + at), samples };
			const rows = await this.layer.rows(deviceId, wanted, priority, signal);
			if (rows) pieces.push({ at, rows });
			at += samples;
		}
		if (pieces.length === 0) return undefined;
		const buffer = new AudioBuffer({
			length: CHUNK_SAMPLES,
			numberOfChannels: this.layer.channels.get(deviceId)!,
			sampleRate: LISTENING_RATE
		});
		for (const { at, rows } of pieces)
			for (const [place, row] of rows.entries()) buffer.copyToChannel(row, channels[place]!, at);
		return buffer;
	}

	/** Whole samples only: chunks meet without a gap. */
	private schedule(chunk: ReadonlyMap<string, AudioBuffer>, index: number, run: Run): void {
		const when = this.chunkTime(index);
		const late = Math.max(0, this.context!.currentTime - when);
		if (late > secondsOfChunk()) return;
		for (const [deviceId, buffer] of chunk) {
			const source = new AudioBufferSourceNode(this.context!, { buffer });
			source.connect(this.bus(deviceId, buffer.numberOfChannels).splitter);
			source.onended = () => {
				run.sources.delete(source);
				if (run.mix.get(index) === source) run.mix.delete(index);
			};
			run.sources.add(source);
			if (deviceId === MIX) run.mix.set(index, source);
			source.start(late > 0 ? 0 : when, late);
		}
	}

	private chunkTime(index: number): number {
		return Math.round(this.beganTime * LISTENING_RATE + index * CHUNK_SAMPLES) / LISTENING_RATE;
	}

	private bus(deviceId: string, channels: number): DeviceBus {
		const known = this.buses.get(deviceId);
		if (known && known.left.length >= channels) return known;
		const context = this.context!;
		const splitter = context.createChannelSplitter(channels);
		const side = (input: number) =>
			Array.from({ length: channels }, (_, channel) => {
				const gain = new GainNode(context, { gain: 0 });
				splitter.connect(gain, channel);
				gain.connect(this.merger!, 0, input);
				return gain;
			});
		const bus = { splitter, left: side(0), right: side(1) };
		this.buses.set(deviceId, bus);
		this.applyGains(true);
		return bus;
	}

	private applyGains(atOnce = false): void {
		if (!this.context) return;
		const at = this.context.currentTime;
		for (const [deviceId, bus] of this.buses) {
			for (const channel of bus.left.keys()) {
				const one = this.heard.find((heard) => heard.deviceId === deviceId && heard.channel === channel);
				const factor = one ? decibelsToFactor(one.gainDb) : 0;
				const [left, right] = panGains(one?.pan ?? 0);
				for (const [gain, value] of [
					[bus.left[channel]!.gain, left * factor],
					[bus.right[channel]!.gain, right * factor]
				] as const) {
					if (atOnce) gain.setValueAtTime(value, at);
					else gain.setTargetAtTime(value, at, SWITCH_SECONDS);
				}
			}
		}
	}
}

function secondsOfChunk(): number {
	return CHUNK_SAMPLES / LISTENING_RATE;
}

const KEY = Symbol('transport');

export function provideTransport(transport: Transport): void {
	setContext(KEY, transport);
}

export function useTransport(): Transport {
	return getContext<Transport>(KEY);
}
