import { readdir, readFile } from 'node:fs/promises';

const LOOK_EVERY_MS = 20;

/**
 * What this process and all that it starts take together while some work is done, above what they took before, in MB:
 * looked at 50 times a second (Linux, /proc).
 */
export async function peakMemoryMb(work: () => Promise<void>): Promise<number> {
	const before = await residentMb();
	let peak = before;
	let isOver = false;
	const looking = (async () => {
		while (!isOver) {
			peak = Math.max(peak, await residentMb());
			await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
		}
	})();
	try {
		await work();
	} finally {
		isOver = true;
		await looking;
	}
	return peak - before;
}

async function residentMb(): Promise<number> {
	const sizes = await Promise.all((await family(process.pid)).map(ownMb));
	return sizes.reduce((sum, size) => sum + size, 0);
}

async function family(pid: number): Promise<readonly number[]> {
	const tasks = await readdir(`/proc/${pid}/task`).catch(() => []);
	const children = await Promise.all(
		tasks.map((task) => readFile(`/proc/${pid}/task/${task}/children`, 'utf8').catch(() => ''))
	);
	const pids = children.flatMap((list) => list.split(' ').filter(Boolean).map(Number));
	return [pid, ...(await Promise.all(pids.map(family))).flat()];
}

async function ownMb(pid: number): Promise<number> {
	const status = await readFile(`/proc/${pid}/status`, 'utf8').catch(() => '');
	return Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? 0) / 1024;
}
