import { setTimeout } from 'node:timers/promises';
import { readdir, readFile } from 'node:fs/promises';
import { describe, expect, it, vi } from 'vitest';
import { REPORTS, runTool } from '../media/run-tool';
import { createPrecedence } from './precedence';

describe('what somebody waits for goes first', () => {
	it('keeps background work waiting until the last of them has ended', async () => {
		const precedence = createPrecedence();
		const never = new AbortController().signal;
		await precedence.myTurn(never);
		const told: string[] = [];
		const slow = precedence.first(() => setTimeout(60).then(() => told.push('slow')));
		const quick = precedence.first(() => setTimeout(20).then(() => told.push('quick')));
		await Promise.all([slow, quick, precedence.myTurn(never).then(() => told.push('background'))]);
		expect(told).toEqual(['quick', 'slow', 'background']);
	});

	it('lets whoever waits be stopped, and goes on after a fault', async () => {
		const precedence = createPrecedence();
		const stop = new AbortController();
		const failing = precedence.first(async () => {
			await setTimeout(30);
			throw new Error('no');
		});
		const waiting = precedence.myTurn(stop.signal);
		stop.abort();
		await expect(waiting).rejects.toThrow('abort');
		await expect(failing).rejects.toThrow('no');
		await precedence.myTurn(new AbortController().signal);
	});

	it('has a media tool stand still, however short its patience, and go on to its end', async () => {
		const precedence = createPrecedence();
		let seconds = 0;
		const tool = runTool(
			'ffmpeg',
			['-v', 'error', ...REPORTS, '-re', '-f', 'lavfi', '-i', 'anullsrc', '-t', '2', '-f', 'null', '-'],
			{ pausing: precedence, stallSeconds: 1.5, onReport: (report) => (seconds = report.seconds ?? seconds) }
		);
		await setTimeout(900);
		const before = await precedence.first(async () => {
			await setTimeout(150);
			const at = seconds;
			await setTimeout(2000);
			expect(seconds).toBe(at);
			return at;
		});
		expect(before).toBeLessThan(1.9);
		await tool;
	}, 20_000);

	it('stops a tool that starts meanwhile only when it would end with us', async () => {
		const precedence = createPrecedence();
		const before = new Set(await toolsOfOurs());
		const stop = new AbortController();
		await precedence.first(async () => {
			const tool = runTool('ffmpeg', ['-v', 'error', '-re', '-f', 'lavfi', '-i', 'anullsrc', '-f', 'null', '-'], {
				pausing: precedence,
				signal: stop.signal
			});
			const [status] = await vi.waitFor(async () => {
				const stopped = (await toolsOfOurs()).filter((one) => !before.has(one) && one.includes('State:\tT'));
				expect(stopped).toHaveLength(1);
				return stopped;
			}, 5000);
			// Stopped as setpriv it would outlive a server that is killed.
			expect(status).toContain('Name:\tffmpeg');
			stop.abort();
			await expect(tool).rejects.toThrow();
		});
	}, 20_000);
});

/** What the system tells of our own child processes. */
async function toolsOfOurs(): Promise<readonly string[]> {
	const ids = (await readdir('/proc')).filter((name) => /^\d+$/.test(name));
	const all = await Promise.all(ids.map((id) => readFile(`/proc/${id}/status`, 'utf8').catch(() => '')));
	return all.filter((status) => status.includes(`PPid:\t${process.pid}\n`)).map((status) => status.split('\nSigQ')[0]!);
}
