/** Folders that cards bring along: of DCF (JEITA CP-3461), AVCHD, XAVC and MXF cards (common practice). */
const CARD_FOLDERS =
	/^(dcim|\d{3}[a-z0-9_]{5}|private|avchd|bdmv|stream|clip|clips|clpr|contents|video|videos|audio|sound|movie|movies|media|mp_root|m4root|\d{3}[a-z]{3}\d{2}|media files)$/i;
/** What a crew calls one card or one day among several of a device. */
const CARDS_AND_DAYS =
	/^(?:(?:card|karte|carte|reel|roll|mag|magazine|disk|disc|sd|cf|ssd|slot|day|tag|jour|part|copy|backup)[\s_.-]*[a-z]?\d*|\d{1,3}|(?:19|20)?\d\d[-_.]?[01]\d[-_.]?[0-3]\d(?:[-_ ].*)?)$/i;

/**
 * The folder that stands for a device: what is left of a file's folders without those that cards, reels and days
 * bring along.
 * @param path of a file below the shoot's folder, with forward slashes
 * @returns with forward slashes; empty for a file in the heap at the top
 */
export function deviceFolderOf(path: string): string {
	const folders = path.split('/').slice(0, -1);
	while (folders.length > 1 && isOfACard(folders.at(-1)!)) folders.pop();
	const isOneOfSeveral = folders.length === 1 && CARDS_AND_DAYS.test(folders[0]!);
	return isOneOfSeveral ? '' : folders.join('/');
}

function isOfACard(folder: string): boolean {
	return CARD_FOLDERS.test(folder) || CARDS_AND_DAYS.test(folder);
}

/** Reels of one camera: "A001", "A002". */
export function areReelsOfOne(a: string, b: string): boolean {
	const [one, other] = [a, b].map((path) => /(?:^|\/)(\p{L})\d{3}(?:_[^/]*)?(?:\/|$)/u.exec(path)?.[1]?.toLowerCase());
	return one !== undefined && one === other;
}

/** A folder's path without the parts that days and cards bring along. */
export function withoutDays(folder: string): string {
	return folder
		.split('/')
		.filter((part) => !CARDS_AND_DAYS.test(part))
		.join('/');
}
