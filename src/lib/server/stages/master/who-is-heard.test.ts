import { afterAll, beforeAll, expect, it } from 'vitest';
import { sampleShoot } from '../../../../../tests/support/sample-shoot';
import { openTestDatabase, type TestDatabase } from '../../../../../tests/support/test-database';
import { secondsToFlicks } from '../../../core/time/flicks';
import { whoIsHeard } from './who-is-heard';

let opened: TestDatabase;
const shoot = sampleShoot([{ badge: '1', start: 0, length: 10 }]);
/** The same of a line-up that the database knows. */
const shootOf = (lineUpId: string, opensBySpeech: boolean) => ({
	...shoot,
	lineUps: shoot.lineUps.map((one) => ({
		...one,
		id: lineUpId,
		mix: { ...one.mix, opensBySpeech },
		corrections: [{ personId: 'a', inFlicks: 0, outFlicks: secondsToFlicks(2), speaks: true }]
	}))
});

beforeAll(async () => {
	opened = await openTestDatabase();
}, 60_000);
afterAll(() => opened.close());

it('is what an editor says where nobody has listened, and refuses a mix that would open by it', async () => {
	const id = '6f9619ff-8b86-4d01-b42d-00c04fc964ff';
	const heard = await whoIsHeard(opened, shootOf(id, false), id);
	expect(heard.speech.map((one) => one.personId)).toEqual(['a']);
	expect(heard.sources).toEqual([]);
	await expect(whoIsHeard(opened, shootOf(id, true), id)).rejects.toThrow('Open Master');
});
