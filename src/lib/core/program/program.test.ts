import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { sampleProgram, sampleShoot } from '../../../../tests/support/sample-shoot';
import type { StoredProgram } from '../shoot/decisions';
import { flicksToSeconds, secondsToFlicks, videoFrameToFlicks } from '../time/flicks';
import { anglesOf, editProgram, type ProgramEdit, rangeOfAllAngles, shotAt, shotsOf } from './program';

const RATE = { num: 25, den: 1 };
const at = secondsToFlicks;

function inWords(program: StoredProgram): string {
	return shotsOf(program)
		.map((shot) => `${shot.deviceId.slice(7)}${flicksToSeconds(shot.inFlicks)}-${flicksToSeconds(shot.outFlicks)}`)
		.join(' ');
}

function call(seconds: number, badge: string): ProgramEdit {
	return { kind: 'call', atFlicks: at(seconds), deviceId: `device-${badge}`, newId: `new-${seconds}-${badge}` };
}

describe('a program', () => {
	const start = sampleProgram(10, 60, [[10, 'A']]);
	const edited = (...edits: readonly ProgramEdit[]) =>
		edits.reduce((program, edit) => editProgram(program, edit, RATE), start);

	it('is one shot until something is called', () => {
		expect(inWords(start)).toBe('A10-60');
		expect(shotAt(start, at(30))?.deviceId).toBe('device-A');
		expect(shotAt(start, at(60))).toBeUndefined();
	});

	it('changes from the moment of a call on, up to the next one', () => {
		expect(inWords(edited(call(20, 'B'), call(40, 'A'), call(30, 'C')))).toBe('A10-20 B20-30 C30-40 A40-60');
	});

	it('puts calls on the frame that shows at the time', () => {
		expect(inWords(edited(call(20.039, 'B')))).toBe('A10-20 B20-60');
		expect(inWords(edited(call(20.041, 'B')))).toBe('A10-20.04 B20.04-60');
	});

	it('knows no call of what is on air anyway', () => {
		expect(inWords(edited(call(20, 'A')))).toBe('A10-60');
		expect(inWords(edited(call(20, 'B'), call(30, 'B')))).toBe('A10-20 B20-60');
		// The shot in between becomes like its neighbours: one shot.
		expect(
			inWords(edited(call(20, 'B'), call(30, 'A'), { kind: 'change-shot', callId: 'new-20-B', deviceId: 'device-A' }))
		).toBe('A10-60');
	});

	it('changes the first shot by a call at or before its beginning', () => {
		expect(inWords(edited(call(10, 'B')))).toBe('B10-60');
		expect(inWords(edited(call(3, 'B')))).toBe('B10-60');
	});

	it('moves a call between its neighbours, not past them', () => {
		const three = edited(call(20, 'B'), call(30, 'C'));
		const moved = (seconds: number) =>
			inWords(editProgram(three, { kind: 'move-call', callId: 'new-20-B', atFlicks: at(seconds) }, RATE));
		expect(moved(25)).toBe('A10-25 B25-30 C30-60');
		expect(moved(5)).toBe('A10-10.04 B10.04-30 C30-60');
		expect(moved(55)).toBe('A10-29.96 B29.96-30 C30-60');
		expect(inWords(editProgram(three, { kind: 'move-call', callId: 'call-0', atFlicks: at(15) }, RATE))).toBe(
			'A10-20 B20-30 C30-60'
		);
	});

	it('drops a call; the shot before goes on, or the second begins', () => {
		const three = edited(call(20, 'B'), call(30, 'C'));
		expect(inWords(editProgram(three, { kind: 'drop-call', callId: 'new-20-B' }, RATE))).toBe('A10-30 C30-60');
		expect(inWords(editProgram(three, { kind: 'drop-call', callId: 'call-0' }, RATE))).toBe('B10-30 C30-60');
		expect(inWords(editProgram(start, { kind: 'drop-call', callId: 'call-0' }, RATE))).toBe('A10-60');
	});

	it('is trimmed and brought back without losing a call', () => {
		const three = edited(call(20, 'B'), call(50, 'C'));
		const short = editProgram(three, { kind: 'trim', inFlicks: at(25), outFlicks: at(45) }, RATE);
		expect(inWords(short)).toBe('B25-45');
		expect(inWords(editProgram(short, { kind: 'trim', inFlicks: at(10), outFlicks: at(60) }, RATE))).toBe(
			'A10-20 B20-50 C50-60'
		);
	});

	it('fills its range without a gap or a repeat, whatever is done to it', () => {
		const edit = fc.oneof(
			fc.record({
				kind: fc.constant('call' as const),
				atFlicks: fc.integer({ min: 0, max: at(70) }),
				deviceId: fc.constantFrom('a', 'b', 'c'),
				newId: fc.uuid()
			}),
			fc.record({
				kind: fc.constant('move-call' as const),
				callId: fc.nat(30).map(String),
				atFlicks: fc.integer({ min: 0, max: at(70) })
			}),
			fc.record({ kind: fc.constant('drop-call' as const), callId: fc.nat(30).map(String) })
		);
		fc.assert(
			fc.property(fc.array(edit, { maxLength: 30 }), (edits) => {
				let program = start;
				for (const one of edits) {
					const known = program.calls[('callId' in one ? Number(one.callId) : 0) % program.calls.length]!;
					program = editProgram(program, 'callId' in one ? { ...one, callId: known.id } : one, RATE);
				}
				const shots = shotsOf(program);
				expect(shots[0]!.inFlicks).toBe(program.inFlicks);
				expect(shots.at(-1)!.outFlicks).toBe(program.outFlicks);
				for (const [index, shot] of shots.entries()) {
					expect(shot.inFlicks % videoFrameToFlicks(1, RATE)).toBe(0);
					if (index === 0) continue;
					expect(shot.inFlicks).toBe(shots[index - 1]!.outFlicks);
					expect(shot.deviceId).not.toBe(shots[index - 1]!.deviceId);
				}
			})
		);
	});
});

describe('the range of all angles', () => {
	const clips = [
		{ badge: 'A', start: 2, length: 100 },
		{ badge: 'B', start: 0.51, length: 98 },
		{ badge: 'D', start: 30, length: 8 },
		{ badge: '1', start: 0, length: 110 },
		{ badge: '2', start: 20, length: 60 }
	];

	it('holds steady cameras and the master audio, on the frame grid; a roaming camera or an unheard recorder does not delay it', () => {
		const shoot = sampleShoot(clips, { master: [{ deviceId: 'device-1', channel: 0, gainDb: 0, pan: 0 }] });
		const range = rangeOfAllAngles(shoot, 'line-up-1');
		expect(flicksToSeconds(range.inFlicks)).toBe(2);
		expect(flicksToSeconds(range.outFlicks)).toBe(98.48);
		expect(anglesOf(shoot, 'line-up-1')).toEqual(['device-A', 'device-B', 'device-D']);
	});

	it('waits for the master audio', () => {
		const shoot = sampleShoot(clips, { master: [{ deviceId: 'device-2', channel: 0, gainDb: 0, pan: 0 }] });
		expect(flicksToSeconds(rangeOfAllAngles(shoot, 'line-up-1').inFlicks)).toBe(20);
		expect(flicksToSeconds(rangeOfAllAngles(shoot, 'line-up-1').outFlicks)).toBe(80);
	});
});
