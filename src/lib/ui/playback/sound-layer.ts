import type { SoundInterval } from '../../core/program/mixed-sound';
import type { PlacedClip } from '../../core/shoot/clip';
import { runsOfSounds } from '../../core/program/sound-runs';
import { listeningFiles, type SoundWanted } from './listening-sound';
import { MIX, type SoundMessage, type SoundRows } from './sound-messages';
import SoundWorker from './sound.worker?worker';

/** Gives sound of devices, laid on whole samples of the line-up by a worker of its own. */
export class SoundLayer {
	/** Devices that have sound, and the mix, with the channels they have. */
	channels: ReadonlyMap<string, number> = new Map();
	private readonly worker = new SoundWorker();
	private readonly waiting = new Map<number, (answer: SoundRows) => void>();
	private nextId = 0;

	constructor() {
		this.worker.onmessage = ({ data }: MessageEvent<SoundRows>) => {
			this.waiting.get(data.id)?.(data);
			this.waiting.delete(data.id);
		};
	}

	/** @param clips where their sound lies */
	setMaterial(clips: readonly PlacedClip[]): void {
		const runsByDevice = runsOfSounds(clips);
		const counted = [...runsByDevice].map(
			([deviceId, runs]) => [deviceId, Math.max(0, ...runs.map((run) => run.channels))] as const
		);
		this.channels = new Map([[MIX, 2], ...counted.filter(([, channels]) => channels > 0)]);
		this.send({ kind: 'material', runsByDevice, files: listeningFiles(clips) });
	}

	/** What the audience hears from now on. */
	setMix(intervals: readonly SoundInterval[]): void {
		this.send({ kind: 'mix', intervals });
	}

	/** @returns a row a channel; nothing where the device has no sound there @throws AbortError, Error with a sentence */
	rows(
		deviceId: string,
		wanted: SoundWanted,
		priority: 'high' | 'low',
		signal: AbortSignal
	): Promise<readonly Float32Array<ArrayBuffer>[] | undefined> {
		signal.throwIfAborted();
		const id = this.nextId++;
		return new Promise((resolve, reject) => {
			const giveUp = () => {
				this.waiting.delete(id);
				this.send({ kind: 'give-up', id });
				reject(signal.reason as Error);
			};
			this.waiting.set(id, ({ rows, problem }) => {
				signal.removeEventListener('abort', giveUp);
				if (problem === undefined) resolve(rows);
				else reject(new Error(problem));
			});
			signal.addEventListener('abort', giveUp, { once: true });
			this.send({ kind: 'lay', id, deviceId, wanted, priority });
		});
	}

	close(): void {
		this.worker.terminate();
	}

	private send(message: SoundMessage): void {
		this.worker.postMessage(message);
	}
}
