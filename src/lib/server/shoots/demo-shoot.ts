import { DEMO_SHOOT_NAME, installDemoHeap, installDemoMedia } from '../../../../demo/install';
import type { Runtime } from '../runtime';
import { createShoot } from './create';

/** Makes sure the demo shoot is there: its media below `folder`, and the shoot itself. */
export async function ensureDemoShoot(runtime: Runtime, folder: string): Promise<void> {
	const media = await installDemoMedia(folder);
	await installDemoHeap(media);
	const [known] = await runtime.database.query('select id from shoot where is_demo');
	if (!known) await createShoot(runtime, DEMO_SHOOT_NAME, media, true);
}
