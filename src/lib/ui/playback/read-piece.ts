import { EncodedPacketSink, Input, MP4, ReadableStreamSource } from 'mediabunny';

/** Pictures of a piece as they come. */
export interface PieceReader {
	onConfig(config: VideoDecoderConfig): void;
	/** @param seconds since the file's first picture */
	onPicture(seconds: number, chunk: EncodedVideoChunk): void;
}

/** A picture of a file, to be closed by whom it is given to. */
export interface Still {
	/** Since the file's first picture. */
	readonly seconds: number;
	readonly frame: VideoFrame;
}

/** Reads a piece, or a still, while it comes. Each of its pictures is whole in itself. @throws Error it cannot be read */
export async function readPiece(stream: ReadableStream<Uint8Array>, reader: PieceReader): Promise<void> {
	const input = new Input({ source: new ReadableStreamSource(stream), formats: [MP4] });
	try {
		const track = await input.getPrimaryVideoTrack();
		const config = await track?.getDecoderConfig();
		if (!track || !config) throw new Error('The small picture cannot be read.');
		reader.onConfig({ ...config, optimizeForLatency: true });
		for await (const packet of new EncodedPacketSink(track).packets())
			reader.onPicture(packet.timestamp, packet.toEncodedVideoChunk());
	} finally {
		input.dispose();
	}
}

/** A still of the server's. @throws Error it cannot be had */
export async function fetchStill(address: string): Promise<Still> {
	const response = await fetch(address, { priority: 'low' });
	if (!response.ok || !response.body) throw new Error('No still of this picture can be had.');
	return decodeStill(response.body);
}

/** Decodes the one picture of a still. @throws Error it cannot be decoded */
async function decodeStill(stream: ReadableStream<Uint8Array>): Promise<Still> {
	let config: VideoDecoderConfig | undefined;
	let picture: { readonly seconds: number; readonly chunk: EncodedVideoChunk } | undefined;
	await readPiece(stream, {
		onConfig: (one) => (config = one),
		onPicture: (seconds, chunk) => (picture ??= { seconds, chunk })
	});
	if (!config || !picture) throw new Error('There is no picture at that time.');
	let frame: VideoFrame | undefined;
	let fault: Error | undefined;
	const decoder = new VideoDecoder({ output: (one) => (frame = one), error: (error) => (fault = error) });
	decoder.configure(config);
	decoder.decode(picture.chunk);
	await decoder.flush();
	decoder.close();
	if (!frame) throw fault ?? new Error('There is no picture at that time.');
	return { seconds: picture.seconds, frame };
}
