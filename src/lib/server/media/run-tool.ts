import { MediaError } from './media-error';
import { spawn } from '../../../../scripts/outside-programs';

export interface ToolOptions {
	readonly signal?: AbortSignal;
	/** Ends the tool after this time. */
	readonly timeoutSeconds?: number;
	/** Takes standard output as it comes; without it the output is returned as text (at most 16 MiB). */
	readonly onOutput?: (block: Buffer) => void | Promise<void>;
}

const MAX_TEXT_BYTES = 16 * 2 ** 20;
/** A timer that is set for longer ends at once. */
const LONGEST_TIMER_MS = 2 ** 31 - 1;
/** setpriv ends so where it finds no such program, as shells do. */
const NOT_FOUND = 127;

function missing(tool: string, cause: unknown): MediaError {
	return new MediaError(
		'tool-missing',
		`${tool} could not be started. Install ffmpeg (on Debian: apt-get install ffmpeg) and start again.`,
		{ cause }
	);
}

/**
 * Runs a media tool with fixed arguments and no shell.
 * @returns standard output as text, empty when `onOutput` takes it
 * @throws MediaError the tool is missing, failed, was too slow; AbortError when stopped
 */
export async function runTool(
	tool: 'ffmpeg' | 'ffprobe',
	args: readonly string[],
	options: ToolOptions = {}
): Promise<string> {
	options.signal?.throwIfAborted();
	// It ends with us, however we end: nobody would take what it writes.
	const child = spawn('setpriv', ['--pdeathsig', 'KILL', '--', tool, ...args], { stdio: ['ignore', 'pipe', 'pipe'] });
	let tooSlow = false;
	const stop = () => child.kill('SIGKILL');
	const timer =
		options.timeoutSeconds === undefined
			? undefined
			: setTimeout(() => ((tooSlow = true), stop()), Math.min(options.timeoutSeconds * 1000, LONGEST_TIMER_MS));
	options.signal?.addEventListener('abort', stop, { once: true });
	const ended = new Promise<number | null>((resolve, reject) => {
		child.on('error', (error) => reject(missing(tool, error)));
		child.on('close', resolve);
	});
	ended.catch(() => undefined);
	const errors: string[] = [];
	const reading = Promise.all([takeOutput(child.stdout!, options.onOutput), takeErrors(child.stderr!, errors)]);
	try {
		const [[text]] = await Promise.all([reading, ended]);
		const code = await ended;
		options.signal?.throwIfAborted();
		if (tooSlow)
			throw new MediaError('took-too-long', `${tool} took longer than ${options.timeoutSeconds} s and was stopped.`);
		if (code === NOT_FOUND) throw missing(tool, errors.at(-1));
		if (code !== 0) throw new MediaError('tool-failed', errors.at(-1) ?? `${tool} ended with code ${code}.`);
		return text;
	} catch (error) {
		stop();
		options.signal?.throwIfAborted();
		if (tooSlow)
			throw new MediaError('took-too-long', `${tool} took longer than ${options.timeoutSeconds} s and was stopped.`, {
				cause: error
			});
		throw error;
	} finally {
		clearTimeout(timer);
		options.signal?.removeEventListener('abort', stop);
	}
}

async function takeOutput(stream: NodeJS.ReadableStream, onOutput: ToolOptions['onOutput']): Promise<string> {
	const blocks: Buffer[] = [];
	let bytes = 0;
	for await (const block of stream as AsyncIterable<Buffer>) {
		if (onOutput) {
			await onOutput(block);
			continue;
		}
		bytes += block.length;
		if (bytes > MAX_TEXT_BYTES) throw new MediaError('tool-failed', 'A media tool said more than can be read.');
		blocks.push(block);
	}
	return Buffer.concat(blocks).toString('utf8');
}

async function takeErrors(stream: NodeJS.ReadableStream, errors: string[]): Promise<void> {
	let rest = '';
	for await (const block of stream as AsyncIterable<Buffer>) {
		const lines = (rest + block.toString('utf8')).split(/[\r\n]+/);
		rest = lines.pop() ?? '';
		for (const line of lines) takeLine(line);
	}
	takeLine(rest);
	function takeLine(line: string): void {
		if (!line.trim()) return;
		errors.push(line.trim());
		if (errors.length > 20) errors.shift();
	}
}

/**
 * Containers that are read: those of cameras and recorders, by ffmpeg's names. Others are refused even where ffmpeg
 * could read them: it takes plain text for a picture, and playlists lead to other files.
 */
const CONTAINERS = [
	...['mov', 'mp4', 'matroska', 'webm', 'mpegts', 'mpeg', 'mpegvideo', 'avi', 'mxf', 'asf', 'dv', 'flv'],
	...['wav', 'w64', 'aiff', 'caf', 'au', 'mp3', 'aac', 'flac', 'ogg', 'ac3', 'eac3', 'dts', 'amr', 'ape', 'wv', 'tta']
].join(',');

/** Arguments that name a local file and nothing else: no network, no playlist that leads elsewhere. */
export function localInput(path: string): readonly string[] {
	return ['-protocol_whitelist', 'file,pipe', '-format_whitelist', CONTAINERS, '-i', `file:${path}`];
}
