import { EncodedPacketSink, Input, type InputVideoTrack, MP4, QTFF, UrlSource, VideoSampleSink } from 'mediabunny';
import { originalAddress } from '../../contract/media';
import type { Still } from './read-piece';
import type { OwnPictures, WallFile } from './wall-messages';

/** What is known of a recording whose own pictures are wanted. */
export type OriginalFile = Pick<WallFile, 'fileId' | 'identity' | 'own'>;

/** What is kept of a recording that is read by ranges. */
const CACHE_BYTES = 8 * 2 ** 20;
/** The page's reader and the server's agree on times to so much, or the recording is left to the server. */
const AGREES_SECONDS = 5e-4;
/** A picture so far behind its key picture is left to the server, in points to be decoded: 75 pictures of HD. */
const MOST_POINTS = 75 * 1920 * 1080;
/** Decoded to measure how quickly. */
const TRIAL_PICTURES = 24;
/** A recording is played itself where decoding it is so much quicker than playing it. */
const FAST_TIMES = 1.3;

interface Opened {
	readonly own: OwnPictures;
	readonly input: Input;
	readonly packets: EncodedPacketSink;
	readonly samples: VideoSampleSink;
	readonly config: VideoDecoderConfig;
}

/** Which kinds of recordings this browser decodes fast enough to play them: measured once, told by none. */
const fastKinds = new Map<string, Promise<boolean>>();

/**
 * Pictures of a recording itself, where the browser decodes its kind: they are there in a moment, before anything is made
 * of it. Times are seconds since the file's first picture.
 */
export class OriginalPictures {
	private opening: Promise<Opened | undefined> | undefined;
	private kind: string | undefined;

	constructor(private readonly file: OriginalFile) {}

	/** The key picture at or before a time. @returns nothing where this browser cannot */
	async key(seconds: number): Promise<Still | undefined> {
		const opened = await this.opened();
		const packet = await opened?.packets.getKeyPacket(inFile(opened, seconds));
		if (!opened || !packet) return undefined;
		const [frame] = await decodeAll({ ...opened.config, optimizeForLatency: true }, [packet.toEncodedVideoChunk()]);
		return frame && { seconds: packet.timestamp - opened.own.startSeconds, frame };
	}

	/**
	 * The picture of a very time.
	 * @param isWanted asked again and again: decoding to it takes a while
	 * @returns nothing where this browser cannot, or would take long, or nobody wants it any more
	 */
	async exact(seconds: number, isWanted: () => boolean): Promise<Still | undefined> {
		const opened = await this.opened();
		if (!opened) return undefined;
		const at = inFile(opened, seconds);
		const key = await opened.packets.getKeyPacket(at, { metadataOnly: true });
		const { secondsPerPicture, points } = opened.own;
		if (!key || ((at - key.timestamp) / secondsPerPicture + 1) * points > MOST_POINTS) return undefined;
		let newest: Still | undefined;
		for await (const sample of opened.samples.samples(key.timestamp, at)) {
			newest?.frame.close();
			newest = stillOf(opened, sample);
			if (isWanted()) continue;
			newest.frame.close();
			return undefined;
		}
		return newest;
	}

	/** All pictures from a time on, in order. */
	async *pictures(fromSeconds: number): AsyncGenerator<Still, void> {
		const opened = await this.opened();
		if (!opened) return;
		for await (const sample of opened.samples.samples(inFile(opened, fromSeconds))) yield stillOf(opened, sample);
	}

	/** Whether it can be played itself: tried once for all recordings of its kind, by decoding some of it. */
	async isFast(): Promise<boolean> {
		const opened = await this.opened();
		if (!opened) return false;
		const kind = (this.kind = kindOf(opened));
		let trial = fastKinds.get(kind);
		if (!trial) fastKinds.set(kind, (trial = tryDecoding(opened).catch(() => false)));
		return trial;
	}

	/** The same, where one of its kind was tried before. @returns nothing where none was */
	async isKnownFast(): Promise<boolean | undefined> {
		if (fastKinds.size === 0) return undefined;
		const opened = await this.opened();
		this.kind = opened && kindOf(opened);
		return this.kind === undefined ? false : fastKinds.get(this.kind);
	}

	/** It was tried, and did not keep up all the same. */
	isSlowAfterAll(): void {
		if (this.kind) fastKinds.set(this.kind, Promise.resolve(false));
	}

	close(): void {
		void this.opening?.then((opened) => opened?.input.dispose());
		this.opening = undefined;
	}

	private opened(): Promise<Opened | undefined> {
		return (this.opening ??= this.open().catch(() => undefined));
	}

	private async open(): Promise<Opened | undefined> {
		const { fileId, identity, own } = this.file;
		if (!own) return undefined;
		const source = new UrlSource(originalAddress({ fileId, key: identity }), { maxCacheSize: CACHE_BYTES });
		const input = new Input({ source, formats: [MP4, QTFF] });
		const track = await input.getPrimaryVideoTrack();
		const config = track && (await configOf(track, own));
		const first = await track?.getFirstTimestamp();
		const isRight =
			config &&
			first !== undefined &&
			Math.abs(first - own.startSeconds) < AGREES_SECONDS &&
			(await VideoDecoder.isConfigSupported(config)).supported;
		if (track && config && isRight)
			return { own, input, packets: new EncodedPacketSink(track), samples: new VideoSampleSink(track), config };
		input.dispose();
		return undefined;
	}
}

function kindOf({ config: { codec, codedWidth, codedHeight }, own }: Opened): string {
	return `${codec} ${codedWidth}×${codedHeight} ${own.secondsPerPicture}`;
}

/** Recordings that do not say what their colours mean are taken for what they are everywhere here. */
async function configOf(track: InputVideoTrack, { colourSpace }: OwnPictures): Promise<VideoDecoderConfig | undefined> {
	const config = await track.getDecoderConfig();
	if (!config) return undefined;
	return { ...config, colorSpace: config.colorSpace?.matrix ? config.colorSpace : colourSpace };
}

function inFile({ own }: Opened, seconds: number): number {
	return seconds + own.startSeconds + AGREES_SECONDS;
}

function stillOf({ own }: Opened, sample: { timestamp: number; toVideoFrame(): VideoFrame; close(): void }): Still {
	const still = { seconds: sample.timestamp - own.startSeconds, frame: sample.toVideoFrame() };
	sample.close();
	return still;
}

async function tryDecoding({ packets, config, own }: Opened): Promise<boolean> {
	const first = await packets.getFirstPacket();
	if (!first) return false;
	const chunks: EncodedVideoChunk[] = [];
	for await (const packet of packets.packets(first)) {
		chunks.push(packet.toEncodedVideoChunk());
		if (chunks.length === TRIAL_PICTURES) break;
	}
	const began = performance.now();
	const frames = await decodeAll(config, chunks, (frame) => frame.close());
	const seconds = (performance.now() - began) / 1000;
	return frames.length === chunks.length && chunks.length * own.secondsPerPicture >= FAST_TIMES * seconds;
}

/** Decodes some pictures. @returns them in order; none where this browser cannot */
async function decodeAll(
	config: VideoDecoderConfig,
	chunks: readonly EncodedVideoChunk[],
	onFrame?: (frame: VideoFrame) => void
): Promise<readonly VideoFrame[]> {
	const frames: VideoFrame[] = [];
	const decoder = new VideoDecoder({
		output(frame) {
			frames.push(frame);
			onFrame?.(frame);
		},
		error: () => undefined
	});
	try {
		decoder.configure(config);
		for (const chunk of chunks) decoder.decode(chunk);
		await decoder.flush();
		return frames;
	} catch {
		for (const frame of frames) frame.close();
		return [];
	} finally {
		if (decoder.state !== 'closed') decoder.close();
	}
}
