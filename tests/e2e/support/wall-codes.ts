import type { Page } from '@playwright/test';
import { EDGE_CELLS, readEdgeCode, type EdgeCode } from '../../../demo/edge-code';
import { DEVICES } from '../../../demo/scene';
import { pictureCoverage } from '../../../src/lib/core/program/coverage';
import { placedClips } from '../../../src/lib/core/shoot/lookup';
import type { Shoot } from '../../../src/lib/core/shoot/shoot';
import { FLICKS_PER_SECOND } from '../../../src/lib/core/time/flicks';

export interface TileReading {
	/** Badge of the angle, or "air". */
	readonly tile: string;
	readonly code: EdgeCode | undefined;
	/** Line-up time the page showed at that moment. */
	readonly flicks: number;
}

/** The brightness of each cell of each tile's bottom row, as it stands on the screen now. */
interface RawReading {
	readonly flicks: number;
	readonly tiles: readonly { readonly tile: string; readonly levels: readonly number[] }[];
}

/**
 * Reads what the wall's canvas shows at the next `count` moments, `everyMs` apart, over at most `mostSeconds` of the
 * line-up: pixels, not what the player says.
 */
export async function readWall(
	page: Page,
	count: number,
	everyMs: number,
	mostSeconds = Infinity
): Promise<readonly TileReading[]> {
	const raw = await page.evaluate(
		async ({ count, everyMs, cells, mostFlicks }): Promise<RawReading[]> => {
			const wall = document.querySelector<HTMLCanvasElement>('[data-testid=wall]')!;
			const box = wall.getBoundingClientRect();
			const read = document.createElement('canvas').getContext('2d', { willReadFrequently: true })!;
			const readings: RawReading[] = [];
			const scale = wall.width / box.width;
			const take = () => {
				const flicks = Number(document.querySelector('[data-testid=timecode]')!.getAttribute('data-flicks'));
				// One copy of the whole wall: five would cost more than playing it.
				if (read.canvas.width !== wall.width || read.canvas.height !== wall.height) {
					read.canvas.width = wall.width;
					read.canvas.height = wall.height;
				}
				read.drawImage(wall, 0, 0);
				const tiles = [...document.querySelectorAll<HTMLElement>('[data-testid^="tile-"]')].map((element) => {
					const part = element.dataset;
					const sizes = [part['x'], part['y'], part['width'], part['height']].map((one) =>
						Math.round(Number(one) * scale)
					);
					const [x, y, width, height] = sizes as [number, number, number, number];
					// The middle of the code's row, which is a fortieth of the picture.
					const { data } = read.getImageData(x, Math.round(y + height - height / 80), width, 1);
					const levels = Array.from(
						{ length: cells },
						(_, cell) => data[4 * Math.floor(((cell + 0.5) / cells) * width) + 1]!
					);
					return { tile: part['testid']!.slice('tile-'.length), levels };
				});
				readings.push({ flicks, tiles });
			};
			for (let k = 0; k < count; k++) {
				await new Promise((done) => setTimeout(done, everyMs));
				await new Promise((done) => requestAnimationFrame(done));
				// The page hears of the worker's newest frame in a task of its own: let that come first.
				await new Promise((done) => setTimeout(done));
				take();
				if (readings.at(-1)!.flicks - readings[0]!.flicks > mostFlicks) break;
			}
			return readings;
		},
		{
			count,
			everyMs,
			cells: EDGE_CELLS,
			mostFlicks: Math.min(Number.MAX_SAFE_INTEGER, mostSeconds * FLICKS_PER_SECOND)
		}
	);
	return raw.flatMap(({ flicks, tiles }) =>
		tiles.map(({ tile, levels }) => ({
			tile,
			flicks,
			code: readEdgeCode((x) => levels[Math.floor(x * EDGE_CELLS)]!, 240)
		}))
	);
}

/** What the demo's own numbers say an angle must show at a time of the line-up; nothing where it does not record. */
export function expectedCode(shoot: Shoot, badge: string, flicks: number): EdgeCode | undefined {
	const device = shoot.devices.find((one) => one.badge === badge)!;
	const covered = pictureCoverage(placedClips(shoot, shoot.lineUps[0]!.id))
		.get(device.id)
		?.find((one) => flicks >= one.inFlicks - 1 && flicks < one.outFlicks);
	if (!covered) return undefined;
	const { source } = covered;
	const part = shoot.clips.flatMap((clip) => clip.parts).find((one) => one.fileId === source.fileId)!;
	const plan = DEVICES.flatMap((one) => one.clips).find((one) => one.path === part.relativePath)!;
	const seconds = ((flicks - source.startFlicks) / source.rateFactor - part.picture!.startFlicks) / FLICKS_PER_SECOND;
	const { rate } = part.picture!;
	return { file: plan.edgeFile, picture: Math.floor((seconds * rate.num) / rate.den + 1e-6) };
}
