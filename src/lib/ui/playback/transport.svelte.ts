import { getContext, setContext } from 'svelte';
import type { PlacedClip } from '../../core/shoot/clip';
import { decibelsToFactor, panGains } from '../../core/master/gains';
import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import { runsOfSounds, type SoundRun } from '../../core/program/sound-runs';
import { deviceSound, LISTENING_RATE, type ReadyFiles, readyFiles } from './listening-sound';
import { type Loop, type PlayCourse, playCourse } from './play-course';

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
/** Switching what is heard takes this long, so that it does not click. */
const SWITCH_SECONDS = 0.004;

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

	private context: AudioContext | undefined;
	private merger: ChannelMergerNode | undefined;
	private readonly buses = new Map<string, DeviceBus>();
	private runsByDevice: ReadonlyMap<string, readonly SoundRun[]> = new Map();
	private files: ReadyFiles = new Map();
	private heard: readonly HeardChannel[] = [];
	private ready: 'heard' | 'all' = 'all';
	private range = { inFlicks: 0, outFlicks: 0 };
	private loop: Loop | undefined;
	private course = playCourse(0, undefined);
	private beganTime = 0;
	private run: { readonly abort: AbortController; readonly sources: Set<AudioBufferSourceNode> } | undefined;
	private readonly listeners = new Set<(anchor: ClockAnchor) => void>();

	/**
	 * What there is to play. Playing goes on from where it is.
	 * @param clips where their sound lies
	 */
	setMaterial(clips: readonly PlacedClip[], range: { readonly inFlicks: number; readonly outFlicks: number }): void {
		this.runsByDevice = runsOfSounds(clips);
		this.files = readyFiles(clips);
		this.range = range;
		if (!this.playing) this.setPosition(this.shownFlicks);
		else void this.play(this.now());
	}

	/**
	 * Whose sound is laid while playing: those that are heard, or all devices where the editor goes from one to another.
	 * The sound of many devices costs what the pictures need.
	 */
	setReady(which: 'heard' | 'all'): void {
		if (this.ready === which) return;
		this.ready = which;
		if (which === 'all' && this.playing) void this.play(this.now());
	}

	/** What is heard from now on, playing or not. */
	setHeard(heard: readonly HeardChannel[]): void {
		const known = new Set(this.heard.map((one) => one.deviceId));
		this.heard = heard;
		this.applyGains();
		const isNew = heard.some((one) => !known.has(one.deviceId));
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
		const context = await this.audio();
		const from =
			fromFlicks >= this.range.outFlicks - FLICKS_PER_SECOND / 50
				? this.range.inFlicks
				: Math.max(fromFlicks, this.range.inFlicks);
		const course = playCourse(from, this.loop);
		const run = { abort: new AbortController(), sources: new Set<AudioBufferSourceNode>() };
		this.run = run;
		let first: ReadonlyMap<string, AudioBuffer>;
		try {
			first = await this.layChunk(course, 0, run.abort.signal);
		} catch (error) {
			if (!run.abort.signal.aborted) this.problem = error instanceof Error ? error.message : String(error);
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

	private async audio(): Promise<AudioContext> {
		if (!this.context) {
			this.context = new AudioContext({ sampleRate: LISTENING_RATE, latencyHint: 'interactive' });
			this.merger = this.context.createChannelMerger(2);
			this.merger.connect(this.context.destination);
		}
		await this.context.resume();
		return this.context;
	}

	private stopRun(): void {
		this.run?.abort.abort();
		for (const source of this.run?.sources ?? []) source.stop();
		this.run = undefined;
	}

	/** Follows the clock on the screen, and ends at the end. */
	private watch(run: NonNullable<Transport['run']>): void {
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

	private async layAhead(run: NonNullable<Transport['run']>): Promise<void> {
		for (let index = 1; this.run === run; index++) {
			if (this.course.at(index * CHUNK_SAMPLES) >= this.range.outFlicks) return;
			const ahead = this.beganTime + (index * CHUNK_SAMPLES) / LISTENING_RATE - this.context!.currentTime;
			if (ahead > AHEAD_SECONDS) await new Promise((resolve) => setTimeout(resolve, (ahead - AHEAD_SECONDS) * 1000));
			try {
				const chunk = await this.layChunk(this.course, index * CHUNK_SAMPLES, run.abort.signal);
				if (this.run === run) this.schedule(chunk, index, run);
			} catch (error) {
				if (run.abort.signal.aborted) return;
				this.problem = error instanceof Error ? error.message : String(error);
			}
		}
	}

	private async layChunk(
		course: PlayCourse,
		fromSample: number,
		signal: AbortSignal
	): Promise<ReadonlyMap<string, AudioBuffer>> {
		const buffers = new Map<string, AudioBuffer>();
		await Promise.all(
			[...this.runsByDevice].map(async ([deviceId, runs]) => {
				if (this.ready === 'heard' && !this.heard.some((one) => one.deviceId === deviceId)) return;
				const buffer = await deviceChunk(runs, this.files, course, fromSample, signal);
				if (buffer) buffers.set(deviceId, buffer);
			})
		);
		return buffers;
	}

	/** Whole samples only: chunks meet without a gap. */
	private schedule(chunk: ReadonlyMap<string, AudioBuffer>, index: number, run: NonNullable<Transport['run']>): void {
		const when = Math.round(this.beganTime * LISTENING_RATE + index * CHUNK_SAMPLES) / LISTENING_RATE;
		const late = Math.max(0, this.context!.currentTime - when);
		if (late > secondsOfChunk()) return;
		for (const [deviceId, buffer] of chunk) {
			const source = new AudioBufferSourceNode(this.context!, { buffer });
			source.connect(this.bus(deviceId, buffer.numberOfChannels).splitter);
			source.onended = () => run.sources.delete(source);
			run.sources.add(source);
			source.start(late > 0 ? 0 : when, late);
		}
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

/** A chunk of one device, in pieces where a loop jumps back. */
async function deviceChunk(
	runs: readonly SoundRun[],
	files: ReadyFiles,
	course: PlayCourse,
	fromSample: number,
	signal: AbortSignal
): Promise<AudioBuffer | undefined> {
	const pieces: { readonly at: number; readonly rows: readonly Float32Array<ArrayBuffer>[] }[] = [];
	for (let at = 0; at < CHUNK_SAMPLES;) {
		const samples = Math.min(CHUNK_SAMPLES - at, course.untilJump(fromSample + at));
		const rows = await deviceSound(runs, files, course.at(fromSample + at), samples, signal);
		if (rows) pieces.push({ at, rows });
		at += samples;
	}
	if (pieces.length === 0) return undefined;
	const buffer = new AudioBuffer({
		length: CHUNK_SAMPLES,
		numberOfChannels: Math.max(...pieces.map(({ rows }) => rows.length)),
		sampleRate: LISTENING_RATE
	});
	for (const { at, rows } of pieces)
		for (const [channel, row] of rows.entries()) buffer.copyToChannel(row, channel, at);
	return buffer;
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
