import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import type { PieceLines } from '../../core/limits/pieces';
import { FilePlayer, type Looking } from './file-player';
import { areStillsComing } from './still-player';
import { Thinning } from './thinning';
import type { ClockAnchor } from './transport.svelte';
import type { AngleState, WallAir, WallFile, WallMessage, WallReport, WallTile } from './wall-messages';

/**
 * All angles in one worker on one canvas; each follows the audio clock that the page tells. The picture on air has a canvas
 * of its own, as large as the copy: enlarging it here would cost more than all the rest, the browser does it for less.
 */
let canvas: OffscreenCanvas | undefined;
let context: OffscreenCanvasRenderingContext2D | null = null;
let air: OffscreenCanvasRenderingContext2D | null = null;
let airDrawn: string | undefined;
let tiles: readonly WallTile[] = [];
/** Devices that have a tile: what is hidden costs nothing. */
let seen: ReadonlySet<string> = new Set();
let onAir: readonly WallAir[] = [];
let anchor: ClockAnchor = { playing: false, flicks: 0, atMs: 0 };
const players = new Map<string, FilePlayer>();
/** What each tile shows: nothing is drawn twice. */
let drawn: (string | undefined)[] = [];
let counted = { exact: 0, byOne: 0, worse: 0, stills: 0 };
const thinning = new Thinning();
let toThin = { exact: 0, late: 0 };
let reportedAt = 0;
let toldBehind = '';

self.onmessage = ({ data }: MessageEvent<WallMessage>) => {
	switch (data.kind) {
		case 'canvas':
			canvas = data.canvas;
			context = canvas.getContext('2d', { alpha: true });
			air = data.air?.getContext('2d', { alpha: true }) ?? null;
			requestAnimationFrame(tick);
			break;
		case 'size':
			if (canvas && (canvas.width !== data.width || canvas.height !== data.height)) {
				canvas.width = data.width;
				canvas.height = data.height;
			}
			tiles = data.tiles;
			seen = new Set(tiles.map((tile) => tile.deviceId));
			context?.clearRect(0, 0, data.width, data.height);
			drawn = [];
			break;
		case 'files':
			setFiles(data.files);
			break;
		case 'air':
			onAir = data.air;
			break;
		case 'clock':
			if (isJump(data.anchor)) thinning.jump(performance.now());
			anchor = data.anchor;
			break;
	}
};

function setFiles(files: readonly WallFile[]): void {
	const keyOf = (file: WallFile) => JSON.stringify(file);
	const wanted = new Map(files.map((file) => [keyOf(file), file]));
	for (const [key, player] of players) {
		if (wanted.has(key)) continue;
		player.close();
		players.delete(key);
	}
	for (const [key, file] of wanted) if (!players.has(key)) players.set(key, new FilePlayer(file));
	drawn = [];
	airDrawn = undefined;
}

/** What is drawn now is seen about a refresh of the screen later; the sound's clock tells what is heard now. */
const SEEN_AFTER_MS = 8;

function now(): number {
	if (!anchor.playing) return anchor.flicks;
	const elapsedMs = performance.timeOrigin + performance.now() + SEEN_AFTER_MS - anchor.atMs;
	return anchor.flicks + (elapsedMs / 1000) * FLICKS_PER_SECOND;
}

/** The clock is told often; one that lies elsewhere begins anew. */
const JUMP_SECONDS = 0.1;

function isJump(next: ClockAnchor): boolean {
	if (next.playing !== anchor.playing) return true;
	const goneFlicks = next.playing ? ((next.atMs - anchor.atMs) / 1000) * FLICKS_PER_SECOND : 0;
	return Math.abs(next.flicks - anchor.flicks - goneFlicks) > JUMP_SECONDS * FLICKS_PER_SECOND;
}

/** A file that nobody looks at lets go of its decoder and its pictures after so long. */
const REST_AFTER_MS = 3000;
/** A file that begins so soon is opened beforehand. */
const OPEN_AHEAD_FLICKS = 2 * FLICKS_PER_SECOND;

function airAt(flicks: number): WallAir | undefined {
	return onAir.find((one) => flicks >= one.inFlicks && flicks < one.outFlicks);
}

function tick(): void {
	const flicks = now();
	const nowMs = performance.now();
	const airing = airAt(flicks);
	const heldPlayer = airing?.heldFlicks === undefined ? undefined : playerAt(airing.deviceId, airing.heldFlicks);
	const showing = new Map<string, FilePlayer>();
	const airingSoon = anchor.playing ? airAt(flicks + OPEN_AHEAD_FLICKS) : undefined;
	const isAired = (deviceId: string) => air && [airing?.deviceId, airingSoon?.deviceId].includes(deviceId);
	const isSeen = ({ file: { deviceId } }: FilePlayer) => seen.has(deviceId) || isAired(deviceId);
	for (const player of players.values()) {
		const looking = () => lookingAt(player.file.deviceId, airing?.deviceId, nowMs);
		if (!isSeen(player)) player.rest(nowMs, REST_AFTER_MS);
		else if (player.covers(flicks)) {
			showing.set(player.file.deviceId, player);
			player.advance({ ...looking(), flicks });
			if (anchor.playing) count(player, airing?.deviceId);
		} else if (player === heldPlayer) player.advance({ ...looking(), flicks: airing!.heldFlicks!, isPlaying: false });
		else if (anchor.playing && player.beginsWithin(flicks, OPEN_AHEAD_FLICKS))
			player.advance({ ...looking(), flicks: player.file.beginFlicks, isOnAir: false });
		else player.rest(nowMs, REST_AFTER_MS);
	}
	if (anchor.playing) thinning.note(toThin, nowMs);
	toThin = { exact: 0, late: 0 };
	for (const [index, tile] of tiles.entries()) draw(index, tile, showing.get(tile.deviceId));
	if (air) drawAir(air, airing?.heldFlicks === undefined ? showing.get(airing?.deviceId ?? '') : heldPlayer);
	sendReport(showing, flicks, nowMs);
	requestAnimationFrame(tick);
}

/** Tiles up to this height get the smallest pictures; so do all where there are many. */
const SMALL_TILE_POINTS = 200;
const MANY_TILES = 10;

/** How a device is looked at: the picture on air, or the only one, in full. */
function lookingAt(deviceId: string, onAirId: string | undefined, nowMs: number): Omit<Looking, 'flicks'> {
	const tile = tiles.find((one) => one.deviceId === deviceId);
	const isOnAir = (air !== null && deviceId === onAirId) || (tiles.length === 1 && tile !== undefined);
	const isOneOfMany = tiles.length >= MANY_TILES && !tile?.isLarge;
	const isSmall = isOneOfMany || (tile?.height ?? 0) <= SMALL_TILE_POINTS;
	const lines: PieceLines = isOnAir || !isSmall ? 360 : 160;
	const every = anchor.playing && !isLookedAt(deviceId, onAirId) ? thinning.every : 1;
	return { nowMs, lines, isOnAir, isPlaying: anchor.playing, every };
}

/** What is on air and what is large is shown in full, whatever the machine has left for the others. */
function isLookedAt(deviceId: string, onAirId: string | undefined): boolean {
	return deviceId === onAirId || tiles.some((tile) => tile.deviceId === deviceId && tile.isLarge);
}

function playerAt(deviceId: string | undefined, flicks: number): FilePlayer | undefined {
	return [...players.values()].find((player) => player.file.deviceId === deviceId && player.covers(flicks));
}

function pictureKey(player: FilePlayer | undefined): string | undefined {
	const shown = player?.shown;
	if (!player || !shown) return undefined;
	const { fileId, beginFlicks } = player.file;
	return `${fileId} ${beginFlicks} ${shown.seconds} ${shown.frame.codedHeight}`;
}

function draw(index: number, tile: WallTile, player: FilePlayer | undefined): void {
	if (!context) return;
	const frame = player?.shown?.frame;
	const key = pictureKey(player);
	if (key === drawn[index]) return;
	// A file that is being opened keeps what was there: better an old picture for a moment than a flash.
	if (!key && player) return;
	drawn[index] = key;
	context.clearRect(tile.x, tile.y, tile.width, tile.height);
	if (!frame) return;
	const scale = Math.min(tile.width / frame.displayWidth, tile.height / frame.displayHeight);
	const width = frame.displayWidth * scale;
	const height = frame.displayHeight * scale;
	context.drawImage(frame, tile.x + (tile.width - width) / 2, tile.y + (tile.height - height) / 2, width, height);
}

function drawAir(on: OffscreenCanvasRenderingContext2D, player: FilePlayer | undefined): void {
	const key = pictureKey(player);
	if (key === airDrawn || (!key && player)) return;
	airDrawn = key;
	const frame = player?.shown?.frame;
	if (!frame) {
		on.clearRect(0, 0, on.canvas.width, on.canvas.height);
		return;
	}
	if (on.canvas.width !== frame.displayWidth || on.canvas.height !== frame.displayHeight) {
		on.canvas.width = frame.displayWidth;
		on.canvas.height = frame.displayHeight;
	}
	on.drawImage(frame, 0, 0);
}

function count(player: FilePlayer, onAirId: string | undefined): void {
	const off = player.picturesOff;
	// What is not made yet says nothing of how the machine keeps up.
	if (off !== undefined && !isLookedAt(player.file.deviceId, onAirId)) {
		if (off === 0) toThin.exact++;
		else toThin.late++;
	}
	if (off === undefined) counted.stills++;
	else if (off === 0) counted.exact++;
	else if (off === 1) counted.byOne++;
	else counted.worse++;
}

/** A picture that is a few late says so no sooner: it comes. */
const LATE_SECONDS = 0.25;

/** Angles that show something else than the picture of this time, and why. */
function anglesBehind(showing: ReadonlyMap<string, FilePlayer>, flicks: number, nowMs: number): readonly AngleState[] {
	return [...showing].flatMap(([deviceId, player]): AngleState[] => {
		const ageSeconds = player.ageSeconds(flicks);
		if (player.isExact) return [];
		if (player.picturesOff !== undefined && ageSeconds !== undefined && Math.abs(ageSeconds) < LATE_SECONDS) return [];
		const secondsLeft = player.secondsLeft({ flicks, nowMs });
		return [
			{
				deviceId,
				...(ageSeconds === undefined ? {} : { ageSeconds: Math.round(10 * ageSeconds) / 10 }),
				...(secondsLeft === undefined ? {} : { secondsLeft: Math.ceil(secondsLeft) }),
				...(player.problem ? { problem: player.problem } : {})
			}
		];
	});
}

const REPORT_EVERY_MS = 1000;
/** What angles show is told sooner. */
const TELL_BEHIND_EVERY_MS = 250;

function sendReport(showing: ReadonlyMap<string, FilePlayer>, flicks: number, nowMs: number): void {
	if (nowMs - reportedAt < TELL_BEHIND_EVERY_MS) return;
	const behind = anglesBehind(showing, flicks, nowMs);
	const told = JSON.stringify([
		areStillsComing(),
		behind,
		[...showing.values()].map((player) => player.shown !== undefined)
	]);
	if (told === toldBehind && nowMs - reportedAt < REPORT_EVERY_MS) return;
	toldBehind = told;
	reportedAt = nowMs;
	const problem = [...players.values()].find((player) => player.problem)?.problem;
	const open = [...players.values()].filter((player) => player.holdsPictures).length;
	const shown = [...showing.values()].filter((player) => player.shown).length;
	const onAirId = airAt(flicks)?.deviceId;
	const isAirBehind = anchor.playing && behind.some((one) => one.deviceId === onAirId);
	const isBusy = areStillsComing() || shown < showing.size || isAirBehind;
	const message: WallReport = {
		kind: 'report',
		...counted,
		every: thinning.every,
		open,
		shown,
		isBusy,
		behind,
		...(problem ? { problem } : {})
	};
	self.postMessage(message);
	counted = { exact: 0, byOne: 0, worse: 0, stills: 0 };
}
