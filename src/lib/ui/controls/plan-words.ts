import type { PictureInterval } from '../../core/program/compile';
import type { ShootState } from '../state/shoot-state.svelte';

/** Why something else is on air than the called angle, in words; empty where the called angle is. */
export function onAirWords({ shown, calledDeviceId }: PictureInterval, shoot: ShootState): string {
	const badge = (deviceId: string) => shoot.device(deviceId)?.badge ?? '';
	switch (shown.kind) {
		case 'called':
			return '';
		case 'stand-in':
			return `stands in: ${badge(calledDeviceId)} has no picture here`;
		case 'held':
			return 'held: no camera has a picture here';
		case 'black':
			return 'no camera has a picture anywhere in the program';
	}
}
