import type { Shoot } from '../../core/shoot/shoot';

/**
 * A shoot of which each part is watched by itself: whoever reads its clips is not disturbed by a call. Parts that have not
 * changed are the same objects (`assembleShoot`), and putting the same object in again is no change.
 */
export class LiveShoot implements Shoot {
	id = $state.raw('');
	name = $state.raw('');
	folder = $state.raw('');
	revision = $state.raw(0);
	rate = $state.raw<Shoot['rate']>({ num: 25, den: 1 });
	width = $state.raw(0);
	height = $state.raw(0);
	hasOwnRate = $state.raw(false);
	airCelsius = $state.raw(20);
	sources = $state.raw<Shoot['sources']>([]);
	mainCameraId = $state.raw<string>();
	devices = $state.raw<Shoot['devices']>([]);
	clips = $state.raw<Shoot['clips']>([]);
	badFiles = $state.raw<Shoot['badFiles']>([]);
	newFiles = $state.raw<Shoot['newFiles']>([]);
	lineUps = $state.raw<Shoot['lineUps']>([]);
	programs = $state.raw<Shoot['programs']>([]);
	markers = $state.raw<Shoot['markers']>([]);
	signatures = $state.raw<Shoot['signatures']>([]);
	handOffs = $state.raw<Shoot['handOffs']>([]);
	people = $state.raw<Shoot['people']>([]);
	undo = $state.raw<string>();
	redo = $state.raw<string>();

	constructor(shoot: Shoot) {
		this.become(shoot);
	}

	become(shoot: Shoot): void {
		this.id = shoot.id;
		this.name = shoot.name;
		this.folder = shoot.folder;
		this.revision = shoot.revision;
		this.rate = shoot.rate;
		this.width = shoot.width;
		this.height = shoot.height;
		this.hasOwnRate = shoot.hasOwnRate;
		this.airCelsius = shoot.airCelsius;
		this.sources = shoot.sources;
		this.mainCameraId = shoot.mainCameraId;
		this.devices = shoot.devices;
		this.clips = shoot.clips;
		this.badFiles = shoot.badFiles;
		this.newFiles = shoot.newFiles;
		this.lineUps = shoot.lineUps;
		this.programs = shoot.programs;
		this.markers = shoot.markers;
		this.signatures = shoot.signatures;
		this.handOffs = shoot.handOffs;
		this.people = shoot.people;
		this.undo = shoot.undo;
		this.redo = shoot.redo;
	}
}
