/** What a broadcast-wave file says about itself, beside its sound. */
export interface BroadcastWaveNotes {
	readonly description?: string;
	readonly originator?: string;
	/** yyyy-mm-dd */
	readonly date?: string;
	/** hh:mm:ss */
	readonly time?: string;
	/** Samples since midnight at the file's own rate; up to 2^53. */
	readonly timeReferenceSamples: number;
	readonly iXml?: string;
}

export interface WaveFormat {
	readonly sampleRate: number;
	readonly channels: number;
	readonly bitsPerSample: 16 | 24;
}

const BEXT_BYTES = 602;

/**
 * The bytes that stand before the sound in a broadcast-wave file of known length.
 * Source: EBU Tech 3285 version 2 for bext (from memory, layout accepted by ffprobe and exiftool); the RIFF sizes are
 * 32 bits.
 * @throws RangeError the file would be 4 GiB or more, which needs RF64
 */
export function broadcastWaveHeader(format: WaveFormat, samples: number, notes: BroadcastWaveNotes): Uint8Array {
	const blockBytes = (format.channels * format.bitsPerSample) / 8;
	const dataBytes = samples * blockBytes;
	const iXml = notes.iXml === undefined ? undefined : new TextEncoder().encode(notes.iXml);
	const chunks = [
		chunk('bext', bextBody(notes)),
		...(iXml ? [chunk('iXML', iXml)] : []),
		chunk('fmt ', formatBody(format, blockBytes))
	];
	const before = chunks.reduce((sum, one) => sum + one.length, 12);
	const riffBytes = before + 8 + dataBytes + (dataBytes % 2) - 8;
	if (riffBytes >= 2 ** 32) throw new RangeError('A wave file of 4 GiB or more needs the RF64 form.');
	const out = new Uint8Array(before + 8);
	out.set(ascii('RIFF'), 0);
	new DataView(out.buffer).setUint32(4, riffBytes, true);
	out.set(ascii('WAVE'), 8);
	let at = 12;
	for (const one of chunks) {
		out.set(one, at);
		at += one.length;
	}
	out.set(ascii('data'), at);
	new DataView(out.buffer).setUint32(at + 4, dataBytes, true);
	return out;
}

function bextBody(notes: BroadcastWaveNotes): Uint8Array {
	const body = new Uint8Array(BEXT_BYTES);
	const view = new DataView(body.buffer);
	body.set(ascii(notes.description ?? '').subarray(0, 256), 0);
	body.set(ascii(notes.originator ?? 'Open Choir').subarray(0, 32), 256);
	body.set(ascii(notes.date ?? '').subarray(0, 10), 320);
	body.set(ascii(notes.time ?? '').subarray(0, 8), 330);
	view.setUint32(338, notes.timeReferenceSamples % 2 ** 32, true);
	view.setUint32(342, Math.floor(notes.timeReferenceSamples / 2 ** 32), true);
	view.setUint16(346, 1, true);
	return body;
}

function formatBody(format: WaveFormat, blockBytes: number): Uint8Array {
	const body = new Uint8Array(16);
	const view = new DataView(body.buffer);
	view.setUint16(0, 1, true);
	view.setUint16(2, format.channels, true);
	view.setUint32(4, format.sampleRate, true);
	view.setUint32(8, format.sampleRate * blockBytes, true);
	view.setUint16(12, blockBytes, true);
	view.setUint16(14, format.bitsPerSample, true);
	return body;
}

function chunk(name: string, body: Uint8Array): Uint8Array {
	const out = new Uint8Array(8 + body.length + (body.length % 2));
	out.set(ascii(name), 0);
	new DataView(out.buffer).setUint32(4, body.length, true);
	out.set(body, 8);
	return out;
}

function ascii(text: string): Uint8Array {
	return Uint8Array.from(text, (letter) => {
		const code = letter.charCodeAt(0);
		return code < 128 ? code : 63;
	});
}
