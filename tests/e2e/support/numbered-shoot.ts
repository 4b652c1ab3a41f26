import { mkdir, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { EDGE_CELLS, edgeCells } from '../../../demo/edge-code';
import { runProgram as run } from '../../../scripts/outside-programs';

export const PICTURES_A_SECOND = 25;

export interface NumberedCamera {
	readonly path: string;
	/** Width and height, with a colon. */
	readonly size: string;
	/** What ffmpeg is told of its sound and its container. */
	readonly sound: readonly string[];
}

export interface NumberedShoot {
	readonly seconds: number;
	/** Between key pictures. */
	readonly groupSeconds: number;
	readonly cameras: readonly NumberedCamera[];
}

/**
 * A recorder (recorder/room.wav) and cameras in one room, each a second later than the one before; every picture carries the
 * number of its camera, from 1, and its own.
 */
export async function writeNumberedShoot(
	folder: string,
	{ seconds, groupSeconds, cameras }: NumberedShoot
): Promise<void> {
	const sound = join(folder, 'recorder', 'room.wav');
	await mkdir(dirname(sound), { recursive: true });
	const room = `anoisesrc=d=${seconds + 8}:c=pink:a=0.5:seed=5:r=48000,tremolo=f=0.7:d=0.8`;
	await run('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', room, '-c:a', 'pcm_s16le', sound]);
	for (const [index, camera] of cameras.entries()) {
		const target = join(folder, camera.path);
		await mkdir(dirname(target), { recursive: true });
		const raw = join(folder, '..', `pictures-${index}`);
		await writeFile(raw, numberedPictures(index + 1, seconds * PICTURES_A_SECOND));
		const shape = ['-f', 'rawvideo', '-pix_fmt', 'gray', '-s', `${EDGE_CELLS}x40`, '-r', `${PICTURES_A_SECOND}`];
		const heard = ['-ss', `${index + 1}`, '-t', `${seconds}`, '-i', sound];
		const coded = [
			'-vf',
			`scale=${camera.size}:flags=neighbor,format=yuv420p`,
			'-c:v',
			'libx264',
			'-preset',
			'ultrafast'
		];
		const groups = ['-g', `${groupSeconds * PICTURES_A_SECOND}`, '-sc_threshold', '0'];
		await run('ffmpeg', ['-v', 'error', ...shape, '-i', raw, ...heard, ...coded, ...groups, ...camera.sound, target]);
		await rm(raw);
	}
}

/** Pictures of 25 by 40 points, the number in the lowest row. */
function numberedPictures(file: number, count: number): Buffer {
	const picture = Buffer.alloc(EDGE_CELLS * 40, 90);
	return Buffer.concat(
		Array.from({ length: count }, (_, index) => {
			Buffer.from(edgeCells({ file, picture: index })).copy(picture, EDGE_CELLS * 39);
			return Buffer.from(picture);
		})
	);
}
