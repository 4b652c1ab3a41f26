import { open } from 'node:fs/promises';
import { openOriginal } from './original-file';

const MAX_BOXES = 10_000;

/**
 * Whether an MP4 or MOV file is written in fragments, by the names of its outermost boxes.
 * Source: ISO/IEC 14496-12 (memory): size and name of four bytes each, a size of 1 is followed by one of eight bytes.
 */
export async function isFragmentedMp4(path: string): Promise<boolean> {
	const file = await openOriginal(path);
	try {
		const { size: fileBytes } = await file.stat();
		const head = Buffer.alloc(16);
		let at = 0;
		for (let count = 0; at + 8 <= fileBytes && count < MAX_BOXES; count++) {
			const { bytesRead } = await file.read(head, 0, 16, at);
			if (bytesRead < 8) break;
			if (head.toString('latin1', 4, 8) === 'moof') return true;
			const short = head.readUInt32BE(0);
			const bytes = short === 1 && bytesRead === 16 ? Number(head.readBigUInt64BE(8)) : short;
			if (bytes < 8) break;
			at += bytes;
		}
		return false;
	} finally {
		await file.close();
	}
}

/** Enough for the head of a file in fragments and of its first one. */
const HEAD_BYTES = 4096;

/** When the first fragment of a file that we have made begins, in its own ticks; nothing where it has none. */
export async function firstFragmentTicks(path: string): Promise<number | undefined> {
	const file = await open(path, 'r');
	try {
		const head = Buffer.alloc(HEAD_BYTES);
		const { bytesRead } = await file.read(head, 0, HEAD_BYTES, 0);
		return fragmentTicks(head.subarray(0, bytesRead));
	} finally {
		await file.close();
	}
}

/**
 * When the first fragment of some bytes begins.
 * Source: ISO/IEC 14496-12 (memory), "tfdt": a version, three bytes of flags, the time in four bytes or, in version 1, eight.
 */
export function fragmentTicks(head: Buffer): number | undefined {
	const at = head.indexOf('tfdt');
	if (at < 0) return undefined;
	return head[at + 4] === 1 ? Number(head.readBigUInt64BE(at + 8)) : head.readUInt32BE(at + 8);
}

interface Box {
	readonly name: string;
	readonly from: number;
	readonly to: number;
}

/** The outermost boxes of a file that we have made: all of sizes of four bytes. */
function outermostBoxes(bytes: Buffer): readonly Box[] {
	const boxes: Box[] = [];
	for (let from = 0; from + 8 <= bytes.length;) {
		const to = from + bytes.readUInt32BE(from);
		if (to < from + 8 || to > bytes.length) break;
		boxes.push({ name: bytes.toString('latin1', from + 4, from + 8), from, to });
		from = to;
	}
	return boxes;
}

/**
 * Cuts one fragment out of a file that we have made, of which each fragment is one picture.
 * @param ticks in the file's own @returns the head and the last fragment that begins no later, which is a file of its own;
 * nothing where all begin later
 */
export function fragmentAt(bytes: Buffer, ticks: number): Buffer<ArrayBuffer> | undefined {
	const boxes = outermostBoxes(bytes);
	const first = boxes.findIndex(({ name }) => name === 'moof');
	const isDue = ({ name, from, to }: Box) => {
		if (name !== 'moof') return false;
		const begins = fragmentTicks(bytes.subarray(from, to));
		return begins !== undefined && begins <= ticks;
	};
	const due = boxes.findLastIndex(isDue);
	const data = boxes[due + 1];
	if (due < 0 || data?.name !== 'mdat') return undefined;
	return Buffer.concat([bytes.subarray(0, boxes[first]!.from), bytes.subarray(boxes[due]!.from, data.to)]);
}
