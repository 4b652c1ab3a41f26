import pLimit from 'p-limit';
import { peaksAddress } from '../../contract/media';
import { fetchListening } from '../playback/listening-sound';
import { peakLevels, type PeakLevel } from '../../core/signal/peaks';

/** Blocks a tile holds. */
const TILE_BLOCKS = 2048;
/** Samples a tile of plain sound holds. */
const TILE_SAMPLES = 32_768;
/** What is kept of tiles; the oldest go first. */
const MAX_BYTES = 96 * 2 ** 20;
/** A browser keeps six connections to a server; what the editor asks for must find one free. */
const MAX_REQUESTS = 3;
/** A tile that could not be had is asked for again no sooner. */
const RETRY_AFTER_MS = 5000;

/** A file whose peaks are known. */
export interface PeakedSound {
	readonly fileId: string;
	readonly identity: string;
	/** A channel, at the listening rate. */
	readonly samples: number;
	readonly channels: number;
	/** 32 bits a sample, not 16. */
	readonly isDeep: boolean;
}

function put(out: Float32Array, x: number, least: number, greatest: number): void {
	out[2 * x] = greatest < least ? NaN : least / 32768;
	out[2 * x + 1] = greatest < least ? NaN : greatest / 32768;
}

/**
 * Peaks and samples of all files, fetched in tiles as they are looked at. What is not there yet is asked for and
 * answered with nothing; `onArrival` says when it is worth drawing again.
 */
export class PeakStore {
	private readonly usualPeaks = new Map<string, number>();
	private readonly tiles = new Map<string, Int16Array | 'asked'>();
	private readonly failedMs = new Map<string, number>();
	private readonly inTurn = pLimit(MAX_REQUESTS);

	private bytes = 0;
	/** Tiles that were asked for and have not come yet. */
	waiting = 0;

	constructor(private readonly onArrival: () => void) {}

	/**
	 * Envelopes of a file, one a picture point, at the scale that fits.
	 * @param out gets least and greatest of each; NaN where nothing is known yet
	 * @param from position of the first point's left edge, in samples @param step samples a point
	 */
	fillEnvelopes(out: Float32Array, sound: PeakedSound, from: number, step: number, count: number): void {
		const { identity, samples } = sound;
		const levels = peakLevels(samples);
		let level: PeakLevel | undefined;
		for (const one of levels) if (one.blockSamples <= step) level = one;
		if (level) this.fillFromLevel(out, identity, level, from, step, count);
		else this.fillFromSamples(out, sound, from, step, count);
		this.fillGaps(out, identity, levels, from, step, count);
	}

	/** Until the right tiles have come, coarser ones that are at hand stand in: better rough than empty. */
	private fillGaps(
		out: Float32Array,
		identity: string,
		levels: readonly PeakLevel[],
		from: number,
		step: number,
		count: number
	): void {
		for (let x = 0; x < count; x++) {
			if (!Number.isNaN(out[2 * x]!)) continue;
			const position = from + (x + 0.5) * step;
			for (const level of levels) {
				const block = Math.floor(position / level.blockSamples);
				if (block < 0 || block >= level.blocks) break;
				const tile = Math.floor(block / TILE_BLOCKS);
				const data = this.tiles.get(`${identity} ${level.blockSamples} ${tile}`);
				if (!data || data === 'asked') continue;
				const at = 2 * (block - tile * TILE_BLOCKS);
				put(out, x, data[at]!, data[at + 1]!);
				break;
			}
		}
	}

	/** How high most of a file's peaks reach, of full scale: nine tenths of its coarsest blocks stay below. */
	usualPeak(identity: string, samples: number): number | undefined {
		const known = this.usualPeaks.get(identity);
		if (known !== undefined) return known;
		const level = peakLevels(samples).at(-1)!;
		const data = this.levelTile(identity, level, 0);
		if (!data) return undefined;
		const heights = new Float32Array(data.length / 2);
		for (let block = 0; block < heights.length; block++) {
			heights[block] = Math.max(-data[2 * block]!, data[2 * block + 1]!) / 32768;
		}
		const usual = heights.sort()[Math.floor(heights.length * 0.9)] ?? 0;
		this.usualPeaks.set(identity, usual);
		return usual;
	}

	/** One channel's value at a sample, for the deepest view. */
	sample(sound: PeakedSound, channel: number, index: number): number | undefined {
		const tile = Math.floor(index / TILE_SAMPLES);
		const data = this.soundTile(sound, tile);
		return data ? data[(index - tile * TILE_SAMPLES) * sound.channels + channel]! / 32768 : undefined;
	}

	private fillFromSamples(out: Float32Array, sound: PeakedSound, from: number, step: number, count: number): void {
		const { samples, channels } = sound;
		let data: Int16Array | undefined;
		let held = -1;
		for (let x = 0; x < count; x++) {
			const first = Math.max(0, Math.floor(from + x * step));
			const end = Math.min(samples, Math.max(first + 1, Math.ceil(from + (x + 1) * step)));
			let least = 32767;
			let greatest = -32768;
			for (let index = first; index < end; index++) {
				const tile = Math.floor(index / TILE_SAMPLES);
				if (tile !== held) [data, held] = [this.soundTile(sound, tile), tile];
				if (!data) break;
				const at = (index - tile * TILE_SAMPLES) * channels;
				for (let channel = 0; channel < channels; channel++) {
					const value = data[at + channel]!;
					if (value < least) least = value;
					if (value > greatest) greatest = value;
				}
			}
			put(out, x, least, greatest);
		}
	}

	private fillFromLevel(
		out: Float32Array,
		identity: string,
		level: PeakLevel,
		from: number,
		step: number,
		count: number
	): void {
		let data: Int16Array | undefined;
		let held = -1;
		for (let x = 0; x < count; x++) {
			const first = Math.max(0, Math.floor((from + x * step) / level.blockSamples));
			const end = Math.min(level.blocks, Math.max(first + 1, Math.ceil((from + (x + 1) * step) / level.blockSamples)));
			let least = 32767;
			let greatest = -32768;
			for (let block = first; block < end; block++) {
				const tile = Math.floor(block / TILE_BLOCKS);
				if (tile !== held) [data, held] = [this.levelTile(identity, level, tile), tile];
				if (!data) break;
				const at = 2 * (block - tile * TILE_BLOCKS);
				if (data[at]! < least) least = data[at]!;
				if (data[at + 1]! > greatest) greatest = data[at + 1]!;
			}
			put(out, x, least, greatest);
		}
	}

	private levelTile(identity: string, level: PeakLevel, tile: number): Int16Array | undefined {
		const from = level.at + 2 * tile * TILE_BLOCKS;
		const to = level.at + 2 * Math.min(level.blocks, (tile + 1) * TILE_BLOCKS);
		return this.tile(`${identity} ${level.blockSamples} ${tile}`, async () => {
			const headers = { range: `bytes=${2 * from}-${2 * to - 1}` };
			const response = await fetch(peaksAddress(identity), { headers, priority: 'low' });
			if (!response.ok) throw new Error(`${response.status}`);
			return new Int16Array(await response.arrayBuffer());
		});
	}

	private soundTile(sound: PeakedSound, tile: number): Int16Array | undefined {
		const from = tile * TILE_SAMPLES;
		const to = Math.min(sound.samples, from + TILE_SAMPLES);
		return this.tile(`${sound.identity} s ${tile}`, async () => {
			const all = [...Array(sound.channels).keys()];
			const { pcm } = await fetchListening(sound, from, to, all, { priority: 'low' });
			// For the eye 16 bits are more than enough.
			return pcm instanceof Int16Array ? pcm : Int16Array.from(pcm, (value) => value >> 16);
		});
	}

	private tile(key: string, read: () => Promise<Int16Array>): Int16Array | undefined {
		const known = this.tiles.get(key);
		if (known === 'asked') return undefined;
		if (known) return known;
		if ((this.failedMs.get(key) ?? -Infinity) > performance.now() - RETRY_AFTER_MS) return undefined;
		this.tiles.set(key, 'asked');
		this.waiting++;
		void this.inTurn(() => this.fetchTile(key, read));
		return undefined;
	}

	private async fetchTile(key: string, read: () => Promise<Int16Array>): Promise<void> {
		try {
			const tile = await read();
			this.tiles.set(key, tile);
			this.failedMs.delete(key);
			this.bytes += tile.byteLength;
			this.waiting--;
			this.dropOldest();
			this.onArrival();
		} catch {
			// Asked for again when it is looked at again, but not at each drawing.
			this.tiles.delete(key);
			this.failedMs.set(key, performance.now());
			this.waiting--;
		}
	}

	private dropOldest(): void {
		for (const [key, tile] of this.tiles) {
			if (this.bytes <= MAX_BYTES) break;
			if (tile === 'asked') continue;
			this.tiles.delete(key);
			this.bytes -= tile.byteLength;
		}
	}
}
