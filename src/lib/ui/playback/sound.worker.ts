import type { SoundRun } from '../../core/program/sound-runs';
import type { SoundInterval } from '../../core/program/mixed-sound';
import { deviceSound, type ListeningFiles, soundOfMix } from './listening-sound';
import { MIX, type SoundMessage, type SoundRows } from './sound-messages';

/** Fetches sound and takes clock errors out of it, away from the page, which draws and listens to keys meanwhile. */
let runsByDevice: ReadonlyMap<string, readonly SoundRun[]> = new Map();
let mix: readonly SoundInterval[] = [];
let files: ListeningFiles = new Map();
const underWay = new Map<number, AbortController>();

self.onmessage = ({ data }: MessageEvent<SoundMessage>) => {
	switch (data.kind) {
		case 'material':
			({ runsByDevice, files } = data);
			break;
		case 'mix':
			mix = data.intervals;
			break;
		case 'lay':
			void lay(data);
			break;
		case 'give-up':
			underWay.get(data.id)?.abort();
			break;
	}
};

async function lay({ id, deviceId, wanted, priority }: Extract<SoundMessage, { kind: 'lay' }>): Promise<void> {
	const abort = new AbortController();
	underWay.set(id, abort);
	try {
		const options = { signal: abort.signal, priority };
		const rows =
			deviceId === MIX
				? await soundOfMix(mix, files, wanted, options)
				: await deviceSound(runsByDevice.get(deviceId) ?? [], files, wanted, options);
		const answer: SoundRows = { id, ...(rows ? { rows } : {}) };
		self.postMessage(answer, { transfer: rows?.map((row) => row.buffer) ?? [] });
	} catch (error) {
		const answer: SoundRows = { id, problem: error instanceof Error ? error.message : String(error) };
		self.postMessage(answer);
	} finally {
		underWay.delete(id);
	}
}
