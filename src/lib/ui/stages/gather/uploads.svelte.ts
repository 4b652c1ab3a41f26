import Uppy, { type Body, type UppyFile } from '@uppy/core';
import Tus from '@uppy/tus';

interface UploadMeta extends Record<string, unknown> {
	shootId: string;
	relativePath: string;
	lastModified: number;
}
type UploadFile = UppyFile<UploadMeta, Body>;

/** A file on its way. */
export interface Upload {
	readonly id: string;
	readonly path: string;
	readonly sizeBytes: number;
	readonly doneBytes: number;
	readonly state: 'waiting' | 'sending' | 'done' | 'failed';
	readonly fault?: string;
}

/** A server that is started again needs its time; the waits between attempts, in ms. */
const RETRIES = [500, 1000, 2000, 3000, 5000, 5000, 10_000, 10_000, 20_000, 30_000, 60_000];
const AT_ONCE = 3;
/** Left behind by operating systems. */
const SYSTEM_FILES = /^(\.|thumbs\.db$|desktop\.ini$)/i;

/** Files dropped into the page, sent by the tus protocol: several at once, each goes on where it stopped. */
export class Uploads {
	files = $state.raw<readonly Upload[]>([]);
	isPaused = $state(false);
	private readonly uppy: Uppy<UploadMeta, Body>;

	constructor(private readonly shootId: string) {
		this.uppy = new Uppy<UploadMeta, Body>({ autoProceed: true, allowMultipleUploadBatches: true });
		this.uppy.use(Tus, {
			endpoint: '/api/uploads',
			limit: AT_ONCE,
			retryDelays: RETRIES,
			removeFingerprintOnSuccess: true,
			allowedMetaFields: ['shootId', 'relativePath', 'lastModified']
		});
		for (const event of [
			'file-added',
			'upload-start',
			'upload-progress',
			'upload-success',
			'upload-error',
			'file-removed'
		] as const)
			this.uppy.on(event, () => this.look());
	}

	/** @param files with the paths they lie at, where the browser tells them */
	add(files: readonly File[]): void {
		for (const file of files) {
			if (SYSTEM_FILES.test(file.name)) continue;
			const relativePath = pathOf(file);
			const id = `${relativePath}\0${file.size}\0${file.lastModified}`;
			const known = this.uppy.getFiles().find((one) => one.meta['key'] === id);
			if (known && !known.error) continue;
			if (known) this.uppy.removeFile(known.id);
			this.uppy.addFile({
				name: file.name,
				type: file.type,
				data: file,
				source: 'page',
				meta: { shootId: this.shootId, relativePath, lastModified: file.lastModified, key: id }
			});
		}
	}

	pause(): void {
		this.isPaused = true;
		this.uppy.pauseAll();
	}

	resume(): void {
		this.isPaused = false;
		this.uppy.resumeAll();
	}

	retry(): void {
		void this.uppy.retryAll();
	}

	stop(): void {
		this.isPaused = false;
		this.uppy.cancelAll();
		this.look();
	}

	/** Takes what has arrived off the list. */
	clear(): void {
		for (const file of this.uppy.getFiles()) if (stateOf(file) === 'done') this.uppy.removeFile(file.id);
		this.look();
	}

	close(): void {
		// What is under way goes on when the same files are dropped again.
		this.uppy.pauseAll();
	}

	private look(): void {
		this.files = this.uppy.getFiles().map((file): Upload => {
			const fault = faultOf(file);
			return {
				id: file.id,
				path: file.meta.relativePath,
				sizeBytes: file.size ?? 0,
				doneBytes: stateOf(file) === 'done' ? (file.size ?? 0) : Number(file.progress.bytesUploaded || 0),
				state: stateOf(file),
				...(fault ? { fault } : {})
			};
		});
	}
}

function stateOf(file: UploadFile): Upload['state'] {
	if (file.error) return 'failed';
	if (file.progress.uploadComplete) return 'done';
	return file.progress.uploadStarted ? 'sending' : 'waiting';
}

/** The server's sentence, out of what the protocol's client makes of it. */
function faultOf({ error }: UploadFile): string | undefined {
	if (!error) return undefined;
	return /response text: (.+?)(?:, request id|\)$)/s.exec(error)?.[1] ?? 'It did not arrive. Try again.';
}

/** Folders keep their structure: what the drop tells, or the browser's folder field. */
function pathOf(file: File & { readonly relativePath?: string | null }): string {
	return (file.relativePath || file.webkitRelativePath || file.name).replace(/^\/+/, '');
}
