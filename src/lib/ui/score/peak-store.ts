import { peakLevels, type PeakLevel } from '../../core/signal/peaks';

/** Blocks a tile holds. */
const TILE_BLOCKS = 2048;
/** Samples a tile of plain sound holds. */
const TILE_SAMPLES = 8192;
const MOST_TILES = 600;

/** Least and greatest values of a stretch, of full scale. */
export interface Envelope {
	readonly least: number;
	readonly greatest: number;
}

/**
 * Peaks and samples of all files, fetched in tiles as they are looked at. What is not there yet is asked for and
 * answered with nothing; `onArrival` says when it is worth drawing again.
 */
export class PeakStore {
	private readonly usualPeaks = new Map<string, number>();
	private readonly tiles = new Map<string, Int16Array | 'asked'>();

	constructor(private readonly onArrival: () => void) {}

	/** Envelope of samples `[from, to)` of a file at the scale that fits `samplesPerPixel`. */
	envelope(
		identity: string,
		samples: number,
		channels: number,
		from: number,
		to: number,
		samplesPerPixel: number
	): Envelope | undefined {
		const levels = peakLevels(samples);
		if (samplesPerPixel < levels[0]!.blockSamples) return this.plain(identity, samples, channels, from, to);
		let level = levels[0]!;
		for (const one of levels) if (one.blockSamples <= samplesPerPixel) level = one;
		return this.fromLevel(identity, level, from, to);
	}

	/** How high most of a file's peaks reach, of full scale: nine tenths of its coarsest blocks stay below. */
	usualPeak(identity: string, samples: number): number | undefined {
		const known = this.usualPeaks.get(identity);
		if (known !== undefined) return known;
		const level = peakLevels(samples).at(-1)!;
		const data = this.tile(
			`${identity} ${level.blockSamples} 0`,
			'peaks',
			identity,
			level.at,
			level.at + 2 * Math.min(level.blocks, TILE_BLOCKS)
		);
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
	sample(identity: string, samples: number, channels: number, channel: number, index: number): number | undefined {
		const tile = Math.floor(index / TILE_SAMPLES);
		const data = this.tile(
			`${identity} s ${tile}`,
			'listening',
			identity,
			tile * TILE_SAMPLES * channels,
			Math.min(samples, (tile + 1) * TILE_SAMPLES) * channels
		);
		return data ? data[(index - tile * TILE_SAMPLES) * channels + channel]! / 32768 : undefined;
	}

	private plain(identity: string, samples: number, channels: number, from: number, to: number): Envelope | undefined {
		let least = 1;
		let greatest = -1;
		const first = Math.max(0, Math.floor(from));
		const end = Math.min(samples, Math.max(first + 1, Math.ceil(to)));
		for (let index = first; index < end; index++) {
			for (let channel = 0; channel < channels; channel++) {
				const value = this.sample(identity, samples, channels, channel, index);
				if (value === undefined) return undefined;
				if (value < least) least = value;
				if (value > greatest) greatest = value;
			}
		}
		return greatest >= least ? { least, greatest } : undefined;
	}

	private fromLevel(identity: string, level: PeakLevel, from: number, to: number): Envelope | undefined {
		const first = Math.max(0, Math.floor(from / level.blockSamples));
		const end = Math.min(level.blocks, Math.max(first + 1, Math.ceil(to / level.blockSamples)));
		let least = 32767;
		let greatest = -32768;
		for (let block = first; block < end; block++) {
			const tile = Math.floor(block / TILE_BLOCKS);
			const from16 = level.at + 2 * tile * TILE_BLOCKS;
			const data = this.tile(
				`${identity} ${level.blockSamples} ${tile}`,
				'peaks',
				identity,
				from16,
				level.at + 2 * Math.min(level.blocks, (tile + 1) * TILE_BLOCKS)
			);
			if (!data) return undefined;
			const at = 2 * (block - tile * TILE_BLOCKS);
			if (data[at]! < least) least = data[at]!;
			if (data[at + 1]! > greatest) greatest = data[at + 1]!;
		}
		return greatest >= least ? { least: least / 32768, greatest: greatest / 32768 } : undefined;
	}

	private tile(
		key: string,
		kind: 'peaks' | 'listening',
		identity: string,
		from: number,
		to: number
	): Int16Array | undefined {
		const known = this.tiles.get(key);
		if (known === 'asked') return undefined;
		if (known) return known;
		this.tiles.set(key, 'asked');
		void this.fetchTile(key, kind, identity, from, to);
		return undefined;
	}

	private async fetchTile(key: string, kind: string, identity: string, from: number, to: number): Promise<void> {
		try {
			const response = await fetch(`/media/${identity}/${kind}`, {
				headers: { range: `bytes=${from * 2}-${to * 2 - 1}` }
			});
			if (!response.ok) throw new Error(`${response.status}`);
			this.tiles.set(key, new Int16Array(await response.arrayBuffer()));
			for (const oldest of this.tiles.keys()) {
				if (this.tiles.size <= MOST_TILES) break;
				this.tiles.delete(oldest);
			}
			this.onArrival();
		} catch {
			// Asked for again when it is looked at again.
			this.tiles.delete(key);
		}
	}
}
