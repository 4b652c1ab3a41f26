import { AS_RECORDED } from '../shoot/decisions';
import { expect, it } from 'vitest';
import { asMaster, setAsMaster } from './as-master';

const two = [0, 1].map((channel) => ({ deviceId: 'a', channel }));

it('plays two channels of a device as left and right, one and many on both sides', () => {
	expect(asMaster(two).map((one) => one.pan)).toEqual([-1, 1]);
	expect(asMaster(two.slice(1))).toEqual([{ ...AS_RECORDED, deviceId: 'a', channel: 1 }]);
	expect(asMaster([...two, { deviceId: 'a', channel: 2 }]).map((one) => one.pan)).toEqual([0, 0, 0]);
});

it('plays two people on both sides, be they on one recorder', () => {
	expect(setAsMaster({ kind: 'close', channels: two }).map((one) => one.pan)).toEqual([0, 0]);
	expect(setAsMaster({ kind: 'device', channels: two }).map((one) => one.pan)).toEqual([-1, 1]);
});
