import { FLICKS_PER_SECOND } from '../../core/time/flicks';
import { ProxyPlayer } from './proxy-player';
import type { ClockAnchor } from './transport.svelte';
import type { WallAir, WallFile, WallMessage, WallReport, WallTile } from './wall-messages';

/**
 * All angles in one worker on one canvas; each follows the audio clock that the page tells. The picture on air has a canvas
 * of its own, as large as the copy: enlarging it here would cost more than all the rest, the browser does it for less.
 */
let canvas: OffscreenCanvas | undefined;
let context: OffscreenCanvasRenderingContext2D | null = null;
let air: OffscreenCanvasRenderingContext2D | null = null;
let airDrawn: string | undefined;
let tiles: readonly WallTile[] = [];
let onAir: readonly WallAir[] = [];
let anchor: ClockAnchor = { playing: false, flicks: 0, atMs: 0 };
const players = new Map<string, ProxyPlayer>();
/** What each tile shows: nothing is drawn twice. */
let drawn: (string | undefined)[] = [];
let report = { exact: 0, byOne: 0, worse: 0 };
let reportedAt = 0;

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
	for (const [key, file] of wanted) if (!players.has(key)) players.set(key, new ProxyPlayer(file));
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

/** A file that nobody looks at lets go of its decoder and its pictures after so long. */
const REST_AFTER_MS = 3000;
/** A file that begins so soon is opened beforehand. */
const OPEN_AHEAD_FLICKS = 2 * FLICKS_PER_SECOND;

function tick(): void {
	const flicks = now();
	const nowMs = performance.now();
	const airing = onAir.find((one) => flicks >= one.inFlicks && flicks < one.outFlicks);
	const heldPlayer = airing?.heldFlicks === undefined ? undefined : playerAt(airing.deviceId, airing.heldFlicks);
	const showing = new Map<string, ProxyPlayer>();
	for (const player of players.values()) {
		if (player.covers(flicks)) {
			showing.set(player.file.deviceId, player);
			player.advance(flicks, nowMs);
			if (anchor.playing) count(player, flicks);
		} else if (player === heldPlayer) player.advance(airing!.heldFlicks!, nowMs);
		else if (anchor.playing && player.beginsWithin(flicks, OPEN_AHEAD_FLICKS))
			player.advance(player.file.beginFlicks, nowMs);
		else player.rest(nowMs, REST_AFTER_MS);
	}
	for (const [index, tile] of tiles.entries()) draw(index, tile, showing.get(tile.deviceId));
	if (air) drawAir(air, airing?.heldFlicks === undefined ? showing.get(airing?.deviceId ?? '') : heldPlayer);
	sendReport();
	requestAnimationFrame(tick);
}

function playerAt(deviceId: string | undefined, flicks: number): ProxyPlayer | undefined {
	return [...players.values()].find((player) => player.file.deviceId === deviceId && player.covers(flicks));
}

function pictureKey(player: ProxyPlayer | undefined): string | undefined {
	return player?.current ? `${player.file.identity} ${player.file.beginFlicks} ${player.currentIndex}` : undefined;
}

function draw(index: number, tile: WallTile, player: ProxyPlayer | undefined): void {
	if (!context) return;
	const frame = player?.current;
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

function drawAir(on: OffscreenCanvasRenderingContext2D, player: ProxyPlayer | undefined): void {
	const key = pictureKey(player);
	if (key === airDrawn || (!key && player)) return;
	airDrawn = key;
	const frame = player?.current;
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

function count(player: ProxyPlayer, flicks: number): void {
	const off = Math.abs(player.wanted(flicks) - player.currentIndex);
	if (off === 0) report.exact++;
	else if (off === 1) report.byOne++;
	else report.worse++;
}

function sendReport(): void {
	if (performance.now() - reportedAt < 1000) return;
	reportedAt = performance.now();
	const problem = [...players.values()].find((player) => player.problem)?.problem;
	const open = [...players.values()].filter((player) => player.holdsPictures).length;
	const message: WallReport = { kind: 'report', ...report, open, ...(problem ? { problem } : {}) };
	self.postMessage(message);
	report = { exact: 0, byOne: 0, worse: 0 };
}
