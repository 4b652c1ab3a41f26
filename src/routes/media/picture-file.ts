import type { PictureFile } from '$lib/server/media/pieces/picture-file';
import { getRuntime } from '$lib/server/runtime';
import { ShootError } from '$lib/server/shoots/shoot-error';

/** The file whose pictures are asked for. @throws ShootError it is not there, or has none */
export async function pictureFile({ id, key }: { readonly id: string; readonly key: string }): Promise<PictureFile> {
	const { path, identity, facts } = await getRuntime().mediaFiles.find(id, key);
	const { video } = facts;
	if (!video) throw new ShootError('no-such-file', 'That file has no picture.');
	return { path, identity, facts: { ...facts, video } };
}
