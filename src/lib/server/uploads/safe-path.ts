/** Names that some operating system keeps for itself (Microsoft, Naming Files, Paths, and Namespaces; memory). */
const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)(\..*)?$/i;
const MAX_BYTES = 200;
const MAX_PARTS = 12;

/**
 * A path below a folder that can be written everywhere, from one that a browser tells.
 * @returns with forward slashes, never leading out; "file" where nothing is left
 */
export function safePath(told: string): string {
	const parts = told
		.toWellFormed()
		.normalize('NFC')
		.split(/[\\/]+/)
		.map(safeName)
		.filter((part) => part !== '');
	return parts.slice(-MAX_PARTS).join('/') || 'file';
}

function safeName(name: string): string {
	const plain = name
		// Control characters, and what Windows does not allow.
		.replace(/[\p{Cc}\p{Cf}<>:"|?*]/gu, '_')
		.replace(/^[\s.]+|[\s.]+$/g, '');
	return shortened(RESERVED.test(plain) ? `_${plain}` : plain);
}

/** Names of files are counted in bytes; the ending stays. */
function shortened(name: string): string {
	if (Buffer.byteLength(name) <= MAX_BYTES) return name;
	const ending = /\.[a-z0-9]{1,8}$/i.exec(name)?.[0] ?? '';
	let stem = name.slice(0, name.length - ending.length);
	while (Buffer.byteLength(stem) > MAX_BYTES - ending.length) stem = [...stem].slice(0, -1).join('');
	return stem + ending;
}

/** The same path with a number, where it is taken. @param count from 2 */
export function numbered(path: string, count: number): string {
	const ending = /\.[^./]+$/.exec(path)?.[0] ?? '';
	return `${path.slice(0, path.length - ending.length)} (${count})${ending}`;
}
