import { EncodedPacketSink, Input, MP4, QTFF, UrlSource } from 'mediabunny';
import { originalAddress } from '../../contract/media';
import type { Still } from './read-piece';
import type { WallFile } from './wall-messages';

/** What is kept of a recording that is read by ranges. */
const CACHE_BYTES = 8 * 2 ** 20;
/** The page's reader and the server's agree on times to so much, or the recording is left to the server. */
const AGREES_SECONDS = 5e-4;

/** What is known of a recording whose key pictures are wanted. */
export type KeyedFile = Pick<WallFile, 'fileId' | 'identity' | 'ownStartSeconds'>;

interface Opened {
	readonly input: Input;
	readonly sink: EncodedPacketSink;
	readonly config: VideoDecoderConfig;
}

/**
 * Key pictures of a recording itself, where the browser decodes its kind: they are there in a moment, before anything is made
 * of it.
 */
export class OriginalKeys {
	private opening: Promise<Opened | undefined> | undefined;

	constructor(private readonly file: KeyedFile) {}

	/**
	 * The key picture at or before a time.
	 * @param seconds since the file's first picture @returns nothing where this browser cannot
	 */
	async key(seconds: number): Promise<Still | undefined> {
		this.opening ??= this.open().catch(() => undefined);
		const opened = await this.opening;
		if (!opened) return undefined;
		const own = this.file.ownStartSeconds!;
		const packet = await opened.sink.getKeyPacket(seconds + own + AGREES_SECONDS);
		if (!packet) return undefined;
		const frame = await this.decode(opened.config, packet.toEncodedVideoChunk());
		return frame && { seconds: packet.timestamp - own, frame };
	}

	close(): void {
		void this.opening?.then((opened) => opened?.input.dispose());
		this.opening = undefined;
	}

	private async open(): Promise<Opened | undefined> {
		const { fileId, identity, ownStartSeconds } = this.file;
		if (ownStartSeconds === undefined) return undefined;
		const source = new UrlSource(originalAddress({ fileId, key: identity }), { maxCacheSize: CACHE_BYTES });
		const input = new Input({ source, formats: [MP4, QTFF] });
		const track = await input.getPrimaryVideoTrack();
		const config = await track?.getDecoderConfig();
		const first = await track?.getFirstTimestamp();
		const isRight =
			config &&
			first !== undefined &&
			Math.abs(first - ownStartSeconds) < AGREES_SECONDS &&
			(await VideoDecoder.isConfigSupported(config)).supported;
		if (track && config && isRight) return { input, sink: new EncodedPacketSink(track), config };
		input.dispose();
		return undefined;
	}

	private async decode(config: VideoDecoderConfig, chunk: EncodedVideoChunk): Promise<VideoFrame | undefined> {
		let frame: VideoFrame | undefined;
		const decoder = new VideoDecoder({
			output(one) {
				frame?.close();
				frame = one;
			},
			error: () => undefined
		});
		try {
			decoder.configure({ ...config, optimizeForLatency: true });
			decoder.decode(chunk);
			await decoder.flush();
			return frame;
		} catch {
			return undefined;
		} finally {
			if (decoder.state !== 'closed') decoder.close();
		}
	}
}
