/**
 * The only way to start a program that is not ours. What ./start and ./test install, and what code and tests may run, is
 * one list: outside-programs.json, command or path by Debian package. `node:child_process` is off limits everywhere else
 * (eslint.config.js), so that no program is missing on a fresh machine.
 */
import * as processes from 'node:child_process';
import { promisify } from 'node:util';
import listed from './outside-programs.json' with { type: 'json' };

const PACKAGES: Readonly<Record<string, string>> = { ...listed.start, ...listed.test, ...listed.demo };

/** A path at which a listed package puts what is asked for. */
export type InstalledPath = Extract<keyof typeof listed.test, `/${string}`>;

/** @returns the same path; the type says that it is on the list */
export function installedPath(path: InstalledPath): string {
	return path;
}

/** The Debian package of a listed program. */
export function packageOf(program: string): string | undefined {
	return PACKAGES[program];
}

/**
 * @param program a command of the list, or a path of what we have made or were started by (Node itself, a script of ours)
 * @throws Error it is not on the list
 */
function listedProgram(program: string): string {
	if (PACKAGES[program] !== undefined) return program;
	if (program.includes('/') && !/^\/(usr|bin|sbin|opt)\//.test(program)) return program;
	if (program === process.execPath) return program;
	throw new Error(`${program} is not in scripts/outside-programs.json: nothing would install it on a fresh machine.`);
}

function checked<Start extends (program: string, ...rest: never[]) => unknown>(start: Start): Start {
	const loose = start as unknown as (program: string, ...rest: unknown[]) => unknown;
	return ((program: string, ...rest: unknown[]) => loose(listedProgram(program), ...rest)) as unknown as Start;
}

const runFile = promisify(processes.execFile);

/** As Node's own, for listed programs. */
export const spawn = checked(processes.spawn as never) as typeof processes.spawn;
/** As Node's own, for listed programs. */
export const spawnSync = checked(processes.spawnSync as never) as typeof processes.spawnSync;
/** As Node's own, for listed programs. */
export const execFile = checked(processes.execFile as never) as typeof processes.execFile;
/** Node's `execFile` as a promise of what the program said, for listed programs. */
export const runProgram = checked(runFile as never) as typeof runFile;
/** A process of Node's that runs a script of ours. */
export const fork = processes.fork;
