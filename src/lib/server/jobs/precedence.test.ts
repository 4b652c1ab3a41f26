import { setTimeout } from 'node:timers/promises';
import { readdir, readFile } from 'node:fs/promises';
import { describe, expect, it, vi } from 'vitest';
import { REPORTS, runTool } from '../media/run-tool';
import { createPrecedence } from './precedence';

describe('what somebody waits for goes first', () => {
	it('keeps background work waiting until the last of them has ended', async () => {
		const precedence = createPrecedence();
		const never = new AbortController().signal;
		await precedence.myTurn('background', never);
		const told: string[] = [];
		const slow = precedence.run('waited for', () => setTimeout(60).then(() => told.push('slow')));
		const quick = precedence.run('waited for', () => setTimeout(20).then(() => told.push('quick')));
		await Promise.all([slow, quick, precedence.myTurn('background', never).then(() => told.push('background'))]);
		expect(told).toEqual(['quick', 'slow', 'background']);
	});

	it('lets whoever waits be stopped, and goes on after a fault', async () => {
		const precedence = createPrecedence();
		const stop = new AbortController();
		const failing = precedence.run('waited for', async () => {
			await setTimeout(30);
			throw new Error('no');
		});
		const waiting = precedence.myTurn('background', stop.signal);
		stop.abort();
		await expect(waiting).rejects.toThrow('abort');
		await expect(failing).rejects.toThrow('no');
		await precedence.myTurn('background', new AbortController().signal);
	});

	it('has a media tool stand still, however short its patience, and go on to its end', async () => {
		const precedence = createPrecedence();
		let seconds = 0;
		const tool = precedence.run('background', (turn) =>
			runTool(
				'ffmpeg',
				['-v', 'error', ...REPORTS, '-re', '-f', 'lavfi', '-i', 'anullsrc', '-t', '2', '-f', 'null', '-'],
				{ pausing: turn, stallSeconds: 1.5, onReport: (report) => (seconds = report.seconds ?? seconds) }
			)
		);
		await setTimeout(900);
		const before = await precedence.run('waited for', async () => {
			await setTimeout(150);
			const at = seconds;
			await setTimeout(2000);
			expect(seconds).toBe(at);
			return at;
		});
		expect(before).toBeLessThan(1.9);
		await tool;
	}, 20_000);

	it('goes by levels: a piece on air before one that is near, and one that is raised no longer stands still', async () => {
		const precedence = createPrecedence();
		const told: string[] = [];
		const tool = (name: string) => ({
			pause: () => told.push(`${name} stands`),
			goOn: () => told.push(`${name} goes on`)
		});
		let raise!: () => void;
		const background = precedence.run('background', async (turn) => {
			turn.follow(tool('background'));
			raise = () => turn.raise('on air');
			await setTimeout(120);
		});
		const near = precedence.run('near', async (turn) => {
			turn.follow(tool('near'));
			await setTimeout(60);
		});
		expect(told).toEqual(['background stands']);
		raise();
		expect(told.slice(1).sort()).toEqual(['background goes on', 'near stands']);
		await Promise.all([background, near]);
	});

	it('stops a tool that starts meanwhile only when it would end with us', async () => {
		const precedence = createPrecedence();
		const before = new Set(await toolsOfOurs());
		const stop = new AbortController();
		await precedence.run('waited for', async () => {
			const tool = precedence.run('background', (turn) =>
				runTool('ffmpeg', ['-v', 'error', '-re', '-f', 'lavfi', '-i', 'anullsrc', '-f', 'null', '-'], {
					pausing: turn,
					signal: stop.signal
				})
			);
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
