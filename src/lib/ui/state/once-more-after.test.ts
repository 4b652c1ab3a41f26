import { expect, it } from 'vitest';
import { onceMoreAfter } from './once-more-after';

it('whoever asks while the work runs is served by one that begins afterwards', async () => {
	let server = 6;
	let page = 0;
	const answers: (() => void)[] = [];
	let runs = 0;
	const read = onceMoreAfter(async () => {
		runs++;
		const read = server;
		await new Promise<void>((resolve) => answers.push(resolve));
		page = read;
	});
	const first = read();
	server = 7;
	const [second, third] = [read(), read()];
	answers.shift()!();
	await new Promise((resolve) => setTimeout(resolve));
	expect([page, runs]).toEqual([6, 2]);
	answers.shift()!();
	await Promise.all([first, second, third]);
	expect([page, runs]).toEqual([7, 2]);
	const later = read();
	answers.shift()!();
	await later;
	expect(runs).toBe(3);
});
