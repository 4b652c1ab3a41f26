import type { ChildProcess } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { constrainedMemory } from 'node:process';
import { setTimeout as delay } from 'node:timers/promises';
import { totalmem } from 'node:os';
import { MediaError } from './media-error';
import { diskFault } from '../disk/disk-fault';
import { type OpenedArguments, openArguments, type ToolArgument } from './tool-inputs';
import { spawn } from '../../../../scripts/outside-programs';

/** What ffmpeg tells of its work, with `REPORTS` among its arguments. */
export interface ToolReport {
	/** Of what has been written, in seconds and pictures. */
	readonly seconds?: number;
	readonly frames?: number;
}

export interface ToolOptions {
	readonly signal?: AbortSignal;
	/** Ends the tool after this time. */
	readonly timeoutSeconds?: number;
	/** Ends the tool when nothing has come of it for so long, be its work ever so long: output, or reports that change. */
	readonly stallSeconds?: number;
	/** Takes standard output as it comes; without it the output is returned as text (at most 16 MiB). */
	readonly onOutput?: (block: Buffer) => void | Promise<void>;
	/** Takes what `REPORTS` makes it tell. */
	readonly onReport?: (report: ToolReport) => void;
	/** Has the tool stand still while something else goes first. */
	readonly pausing?: Pausing;
}

/** Says when work is to stand still, and when it may go on. */
export interface Pausing {
	/** @returns to be called when that work has ended */
	follow(work: { pause(): void; goOn(): void }): () => void;
}

/** Makes ffmpeg report twice a second. */
export const REPORTS = ['-progress', 'pipe:1', '-stats_period', '0.5'] as const;

/** A decoder that has given nothing for so long is caught in a damaged file. */
export const DECODER_STALL_SECONDS = 45;
/** A file without an index is read from its beginning to find a place in it. */
export const SEEK_STALL_SECONDS = 600;

const MAX_TEXT_BYTES = 16 * 2 ** 20;
/** A timer that is set for longer ends at once. */
const LONGEST_TIMER_MS = 2 ** 31 - 1;
/** setpriv and prlimit end so where they find no such program, as shells do. */
const NOT_FOUND = 127;

const GIBIBYTE = 2 ** 30;
/** What a file says of itself takes 60 MB to read (measured); a picture that large is decoded for it, none that is larger. */
const PROBE_BYTES = GIBIBYTE;
/** 8K pictures of 10 bits on 32 cores take 5 GB (reckoned: 100 MB each, two for a core); a tool takes half of the machine at most. */
const CODING_BYTES = Math.max(GIBIBYTE, Math.min(8 * GIBIBYTE, machineBytes() / 2));

function machineBytes(): number {
	const allowed = constrainedMemory();
	return allowed > 0 ? Math.min(allowed, totalmem()) : totalmem();
}

function missing(tool: string, cause: unknown): MediaError {
	return new MediaError(
		'tool-missing',
		`${tool} could not be started. Install ffmpeg (on Debian: apt-get install ffmpeg) and start again.`,
		{ cause }
	);
}

/**
 * Runs a media tool with fixed arguments, bounded memory and no shell.
 * @returns standard output as text, empty when `onOutput` takes it
 * @throws MediaError the tool is missing, failed, was too slow or made no progress; AbortError when stopped
 */
export async function runTool(
	tool: 'ffmpeg' | 'ffprobe',
	args: readonly ToolArgument[],
	options: ToolOptions = {}
): Promise<string> {
	options.signal?.throwIfAborted();
	const opened = await openArguments(args);
	try {
		return await run(tool, opened, options);
	} finally {
		await opened.close();
	}
}

async function run(
	tool: 'ffmpeg' | 'ffprobe',
	{ args, descriptors, named }: OpenedArguments,
	options: ToolOptions
): Promise<string> {
	options.signal?.throwIfAborted();
	const child = spawn('setpriv', confined(tool, args), { stdio: ['ignore', 'pipe', 'pipe', ...descriptors] });
	const stop = () => child.kill('SIGKILL');
	const watch = watchTime(tool, options, stop);
	const unfollow = options.pausing?.follow(pausable(tool, child, watch));
	options.signal?.addEventListener('abort', stop, { once: true });
	const ended = new Promise<number | null>((resolve, reject) => {
		child.on('error', (error) => reject(missing(tool, error)));
		child.on('close', resolve);
	});
	ended.catch(() => undefined);
	const errors: string[] = [];
	const onOutput = outputTaker(options, watch);
	const reading = Promise.all([takeOutput(child.stdout!, onOutput), takeErrors(child.stderr!, errors)]);
	try {
		const [[text]] = await Promise.all([reading, ended]);
		const code = await ended;
		options.signal?.throwIfAborted();
		if (watch.isOver()) throw watch.reason();
		if (code === NOT_FOUND) throw missing(tool, errors.at(-1));
		if (code !== 0) throw failed(tool, code, errors.map(named));
		return text;
	} catch (error) {
		stop();
		options.signal?.throwIfAborted();
		throw watch.isOver() ? watch.reason(error) : error;
	} finally {
		watch.end();
		unfollow?.();
		options.signal?.removeEventListener('abort', stop);
	}
}

/** How often it is looked whether the tool runs that is to stand still. */
const LOOK_EVERY_MS = 20;

/**
 * A tool's process, to be stopped and continued. setpriv and prlimit run in it before: stopped there, it would not end with
 * us, for setpriv has not seen to that yet.
 */
function pausable(tool: string, child: ChildProcess, watch: TimeWatch): Parameters<Pausing['follow']>[0] {
	let isHeld = false;
	const stop = async (): Promise<void> => {
		while (isHeld && child.exitCode === null && child.signalCode === null) {
			const name = await readFile(`/proc/${child.pid}/comm`, 'utf8').catch(() => '');
			if (!isHeld) return;
			if (name.trim() === tool) return void child.kill('SIGSTOP');
			await delay(LOOK_EVERY_MS);
		}
	};
	return {
		pause() {
			isHeld = true;
			watch.hold();
			void stop();
		},
		goOn() {
			isHeld = false;
			child.kill('SIGCONT');
			watch.goOn();
		}
	};
}

function failed(tool: 'ffmpeg' | 'ffprobe', code: number | null, errors: readonly string[]): MediaError {
	if (errors.some((line) => line.includes('Cannot allocate memory')))
		return new MediaError(
			'tool-failed',
			`It needs more memory to be read than media do (${(memoryOf(tool) / GIBIBYTE).toFixed(0)} GB): it is probably damaged.`
		);
	// The first line tells the cause, where it is the disk's.
	const ofDisk = errors.find((line) => diskFault(new Error(line)));
	return new MediaError('tool-failed', ofDisk ?? errors.at(-1) ?? `${tool} ended with code ${code}.`);
}

function memoryOf(tool: 'ffmpeg' | 'ffprobe'): number {
	return tool === 'ffprobe' ? PROBE_BYTES : CODING_BYTES;
}

/** It ends with us, however we end: nobody would take what it writes. It gets no more memory than real media need. */
function confined(tool: 'ffmpeg' | 'ffprobe', args: readonly string[]): readonly string[] {
	return [
		'--pdeathsig',
		'KILL',
		'--',
		'prlimit',
		`--data=${Math.round(memoryOf(tool))}`,
		'--core=0',
		'--',
		tool,
		...args
	];
}

interface TimeWatch {
	/** Something came of it. */
	progress(): void;
	/** Nothing can come while we ourselves are at work on what came. */
	pause(): void;
	/** Nothing can come until it goes on. */
	hold(): void;
	goOn(): void;
	isOver(): boolean;
	reason(cause?: unknown): MediaError;
	end(): void;
}

function watchTime(tool: string, { timeoutSeconds, stallSeconds }: ToolOptions, stop: () => void): TimeWatch {
	let over: 'too slow' | 'stalled' | undefined;
	const end = (why: 'too slow' | 'stalled') => ((over = why), stop());
	const milliseconds = (seconds: number) => Math.min(seconds * 1000, LONGEST_TIMER_MS);
	const whole =
		timeoutSeconds === undefined ? undefined : setTimeout(() => end('too slow'), milliseconds(timeoutSeconds));
	let stalled: NodeJS.Timeout | undefined;
	let isHeld = false;
	const pause = () => clearTimeout(stalled);
	const progress = () => {
		pause();
		if (stallSeconds !== undefined && !isHeld) stalled = setTimeout(() => end('stalled'), milliseconds(stallSeconds));
	};
	progress();
	return {
		progress,
		pause,
		hold: () => ((isHeld = true), pause()),
		goOn: () => ((isHeld = false), progress()),
		isOver: () => over !== undefined,
		reason: (cause) =>
			new MediaError(
				'took-too-long',
				over === 'stalled'
					? `${tool} came no further for ${stallSeconds} s and was stopped: the file is probably damaged.`
					: `${tool} took longer than ${timeoutSeconds} s and was stopped.`,
				cause === undefined ? {} : { cause }
			),
		end: () => (clearTimeout(whole), pause())
	};
}

/** What takes the output, with the watch told of each progress. */
function outputTaker({ onOutput, onReport }: ToolOptions, watch: TimeWatch): ToolOptions['onOutput'] {
	if (onReport) {
		let before = '';
		return (block) => {
			const text = block.toString('latin1');
			const [seconds, frames, bytes] = [/out_time_us=(\d+)/, /frame=\s*(\d+)/, /total_size=(\d+)/].map(
				(pattern) => pattern.exec(text)?.[1]
			);
			const now = `${seconds} ${frames} ${bytes}`;
			if (now !== before) watch.progress();
			before = now;
			onReport({
				...(seconds === undefined ? {} : { seconds: Number(seconds) / 1e6 }),
				...(frames === undefined ? {} : { frames: Number(frames) })
			});
		};
	}
	return (
		onOutput &&
		(async (block) => {
			watch.pause();
			await onOutput(block);
			watch.progress();
		})
	);
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
