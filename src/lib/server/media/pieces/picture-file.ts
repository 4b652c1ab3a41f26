import type { MediaFacts } from '../../../core/gather/media-facts';

/** A recording whose pictures are shown. */
export interface PictureFile {
	readonly path: string;
	/** Key of its pictures in the caches. */
	readonly identity: string;
	readonly facts: Pick<MediaFacts, 'container' | 'durationSeconds' | 'containerStartSeconds'> & {
		readonly video: NonNullable<MediaFacts['video']>;
	};
}

/** Length of its pictures, from the first on. */
export function pictureSeconds({ facts }: PictureFile): number {
	return Math.max(0, facts.durationSeconds - facts.video.startSeconds);
}
