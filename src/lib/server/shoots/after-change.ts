import type { Shoot } from '../../core/shoot/shoot';
import type { Runtime } from '../runtime';
import { loadShoot } from './load-shoot';

/** Tells all pages of a change. @param isFiles sounds are to be prepared anew @returns the shoot as it stands now */
export async function afterChange({ database, queue }: Runtime, shootId: string, isFiles: boolean): Promise<Shoot> {
	queue.events.emit('event', { type: 'shoot', shootId });
	if (isFiles) await queue.add(shootId, 'prepare', 'Preparing sound and pictures');
	return loadShoot(database, shootId);
}
