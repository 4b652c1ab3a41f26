import { readFile } from 'node:fs/promises';
import { homedir, userInfo } from 'node:os';
import { join, sep } from 'node:path';

/** Names that desktops give the folders people keep recordings in; a desktop may say otherwise (see `ownNames`). */
const USUAL_NAMES = ['Videos', 'Movies', 'Music', 'Desktop', 'Downloads'];
/** Which of a desktop's own folders count, by its names for them. */
const OWN_KINDS = ['VIDEOS', 'MUSIC', 'DESKTOP', 'DOWNLOAD'];

/** Where recordings are looked for when nobody says where. */
export interface UsualFolders {
	/** Folders in the home; not all of them need be there. */
	readonly folders: readonly string[];
	/** Folders in which cards and drives appear when they are plugged in. */
	readonly mounts: readonly string[];
}

/** The folders a person keeps recordings in, and where cards and drives appear (udisks, macOS, mounts by hand). */
export async function usualFolders(home = homedir(), user = userName()): Promise<UsualFolders> {
	const own = await ownNames(home);
	const folders = [...own, ...USUAL_NAMES.map((name) => join(home, name))];
	return {
		// A desktop that keeps none of a kind names the home itself: that would open everything, as would what it lies in.
		folders: [...new Set(folders)].filter((folder) => !`${home}${sep}`.startsWith(`${folder}${sep}`)),
		mounts: [...(user ? [`/media/${user}`, `/run/media/${user}`] : []), '/Volumes', '/mnt']
	};
}

/** Nothing for a user whom the system does not know, as in some containers. */
function userName(): string | undefined {
	try {
		return userInfo().username;
	} catch {
		return undefined;
	}
}

/** What the desktop calls them, in the user's language. Source: xdg-user-dirs, user-dirs.dirs(5). */
async function ownNames(home: string): Promise<readonly string[]> {
	const text = await readFile(join(home, '.config', 'user-dirs.dirs'), 'utf8').catch(() => '');
	return OWN_KINDS.flatMap((kind) => {
		const value = new RegExp(`^XDG_${kind}_DIR="(.*)"`, 'm').exec(text)?.[1]?.replace(/\/+$/, '');
		if (value?.startsWith('$HOME/')) return [join(home, value.slice('$HOME/'.length))];
		return value?.startsWith('/') ? [value] : [];
	});
}
