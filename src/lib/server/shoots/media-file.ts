import { LRUCache } from 'lru-cache';
import type { MediaFacts } from '../../core/gather/media-facts';
import type { Bus } from '../bus/bus';
import type { Queryable } from '../db/database';
import { soundKeyOf } from '../media/sound-inputs';
import { ShootError } from './shoot-error';

/** A file of a shoot, as its sound and its pictures are read. */
export interface MediaFile {
	readonly id: string;
	readonly path: string;
	/** Key of its pictures in the caches. */
	readonly identity: string;
	/** Key of its sound. */
	readonly key: string;
	readonly facts: MediaFacts;
}

export interface MediaFiles {
	/**
	 * @param key of its sound, as the page knows it: a file that has changed since is none that it knows
	 * @throws ShootError it is not there, or another by now
	 */
	find(id: string, key: string): Promise<MediaFile>;
}

const MAX_REMEMBERED = 5000;

/**
 * Files by their identities. They are asked for many times a second while playing: what was found is remembered until files
 * change.
 */
export function openMediaFiles(database: Queryable, bus: Bus): MediaFiles {
	const remembered = new LRUCache<string, MediaFile>({ max: MAX_REMEMBERED });
	bus.subscribe((event) => {
		if (event.type === 'change' && event.change.rows.media_file) remembered.clear();
	});
	return {
		async find(id, key) {
			const known = remembered.get(`${id} ${key}`);
			if (known) return known;
			const [row] = await database.query<{ path: string; identity: string | null; facts: MediaFacts | null }>(
				`select path, identity, facts from media_file where id = $1 and state = 'probed'`,
				[id]
			);
			if (!row?.facts || !row.identity || soundKeyOf(row.identity, row.facts) !== key)
				throw new ShootError('no-such-file', 'That file is not there any more, or it has changed.');
			const file = { id, path: row.path, identity: row.identity, key, facts: row.facts };
			remembered.set(`${id} ${key}`, file);
			return file;
		}
	};
}
