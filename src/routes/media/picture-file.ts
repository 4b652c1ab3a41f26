import type { PictureFile } from '$lib/server/media/pieces/picture-file';
import type { MediaFiles } from '$lib/server/shoots/media-file';
import { ShootError } from '$lib/server/shoots/shoot-error';

/** The file whose pictures are asked for. @throws ShootError it is not there, or has none */
export async function pictureFile(files: MediaFiles, id: string, key: string): Promise<PictureFile> {
	const { path, identity, facts } = await files.find(id, key);
	const { video } = facts;
	if (!video) throw new ShootError('no-such-file', 'That file has no picture.');
	return { path, identity, facts: { ...facts, video } };
}
