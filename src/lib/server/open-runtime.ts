import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { type Logger, pino } from 'pino';
import { allowFolders } from './access/allowed-folders';
import { usualFolders } from './access/usual-folders';
import { createBus } from './bus/bus';
import { createEnginePool } from './engine/engine-pool';
import { lockDataFolder } from './db/data-lock';
import {
	backUp,
	checkDatabaseFolder,
	databaseFolder,
	DatabaseFolderError,
	DAY_MS,
	folderToMake,
	HOW_TO_GO_ON,
	isBackUpDue,
	markDataFolder,
	prepareRestore
} from './db/backups';
import { type Database, DatabaseEndedError, DatabaseError, openDatabase } from './db/database';
import { migrate } from './db/migrate';
import { installTriggers } from './db/tables';
import { diskFault, whyNotWritable } from './disk/disk-fault';
import { openShoots } from './edits/change';
import { jobHandlers } from './job-kinds';
import { createJobQueue } from './jobs/job-queue';
import { createPrecedence } from './jobs/precedence';
import { openListeningSource } from './media/listening/read-listening';
import { openMediaCache } from './media/media-cache';
import { openPieceMaker } from './media/pieces/piece-maker';
import { openStills } from './media/pieces/stills';
import { sweepInputs } from './media/tool-inputs';
import type { Runtime } from './runtime';
import type { Settings } from './settings';
import { endDeletedShoots } from './shoots/delete';
import { faultBehind } from './shoots/fault-behind';
import { ensureDemoShoot } from './shoots/demo-shoot';
import { openMediaFiles } from './shoots/media-file';
import { uploadsFolder } from './uploads/upload-folder';
import { openUploadServer } from './uploads/upload-server';

/** Who has just started wants to work: the database is busy for a moment while it is backed up. */
const FIRST_BACKUP_MS = 60_000;

/** A backup a day. @returns the end of it */
function backUpDaily(database: Database, { dataFolder }: Settings, log: Logger): () => void {
	const backUpIfDue = async () => {
		if (await isBackUpDue(dataFolder, Date.now())) await backUp(database, dataFolder);
	};
	const check = () => void backUpIfDue().catch((error: unknown) => log.error({ err: error }, 'no backup was written'));
	const first = setTimeout(check, FIRST_BACKUP_MS).unref();
	const later = setInterval(check, DAY_MS / 24).unref();
	return () => (clearTimeout(first), clearInterval(later));
}

function notOpened(dataFolder: string, why: string, cause?: unknown): DatabaseFolderError {
	return new DatabaseFolderError(`The database of the data folder ${dataFolder} cannot be opened. ${why}`, { cause });
}

async function whyNotOpened(
	dataFolder: string,
	cause: unknown,
	{ isOpen, isRestored }: { readonly isOpen: boolean; readonly isRestored: boolean }
): Promise<unknown> {
	const fault = (await whyNotWritable(dataFolder)) ?? diskFault(cause)?.message;
	if (fault) return notOpened(dataFolder, fault, cause);
	const isDamaged =
		!isOpen || cause instanceof DatabaseEndedError || (cause instanceof DatabaseError && cause.isOfDamage);
	// What it says of itself, such as that a newer Open Choir wrote it.
	if (!isDamaged) return cause;
	const why = isRestored
		? 'The backup is damaged; what was there before is in its place again. Give another backup with --restore FILE.'
		: `It is damaged. ${HOW_TO_GO_ON}`;
	return notOpened(dataFolder, why, cause);
}

/** @throws DatabaseFolderError with how to go on */
async function openOwnDatabase({ dataFolder, restore }: Settings): Promise<Database> {
	const why = await whyNotWritable(dataFolder);
	if (why) throw notOpened(dataFolder, why);
	if (restore === undefined) await checkDatabaseFolder(dataFolder);
	const toMake =
		restore === undefined
			? await folderToMake(dataFolder)
			: await prepareRestore(dataFolder, restore === 'newest' ? undefined : restore);
	const database = openDatabase(databaseFolder(dataFolder), toMake?.backup);
	let isOpen = false;
	try {
		await database.query('select 1');
		isOpen = true;
		await migrate(database, undefined, () => backUp(database, dataFolder));
		await installTriggers(database);
		await markDataFolder(dataFolder);
		return database;
	} catch (error) {
		await database.close();
		await toMake?.takeBack();
		throw await whyNotOpened(dataFolder, error, { isOpen, isRestored: restore !== undefined });
	}
}

/** Opens everything, in the order it depends on each other. @throws DataLockedError, DatabaseFolderError, AccessError, DatabaseError */
export async function openRuntime(settings: Settings): Promise<Runtime> {
	const log = pino({ level: settings.logLevel });
	const release = await lockDataFolder(settings.dataFolder, () => {
		process.stderr.write(
			`The lock of the data folder ${settings.dataFolder} was lost: to lose nothing else, Open Choir ends.\n`
		);
		process.exit(1);
	});
	try {
		return await openLocked(settings, log, release);
	} catch (error) {
		await release();
		const fault = faultBehind(error);
		throw fault ? notOpened(settings.dataFolder, fault.message, error) : error;
	}
}

async function openLocked(settings: Settings, log: Logger, release: () => Promise<void>): Promise<Runtime> {
	const demoFolder = join(settings.dataFolder, 'demo');
	const landed = uploadsFolder(settings.dataFolder);
	for (const folder of [demoFolder, landed]) await mkdir(folder, { recursive: true });
	// Whoever names folders wants no others read.
	const isNarrowed = settings.mediaFolders.length > 0;
	const { folders: usual, mounts } = isNarrowed ? { folders: [], mounts: [] } : await usualFolders();
	const folders = await allowFolders({
		folders: [demoFolder, ...settings.mediaFolders],
		further: [landed],
		usual,
		mounts
	});
	const database = await openOwnDatabase(settings);
	const bus = createBus();
	const shoots = openShoots(database, bus);
	const pool = createEnginePool();
	const cache = openMediaCache(join(settings.dataFolder, 'cache'));
	const precedence = createPrecedence();
	const pieces = openPieceMaker(cache, precedence);
	const queue = createJobQueue(database, bus, log);
	const endBackups = backUpDaily(database, settings, log);
	const uploads = await openUploadServer({ settings, log, database, queue });
	const runtime: Runtime = {
		settings,
		log,
		database,
		bus,
		shoots,
		queue,
		pool,
		precedence,
		cache,
		listening: openListeningSource(cache, precedence),
		mediaFiles: openMediaFiles(database, bus),
		pieces,
		stills: openStills(cache, precedence),
		folders,
		uploads,
		watched: new Map(),
		async close() {
			endBackups();
			await queue.close();
			await pieces.close();
			await pool.close();
			await database.close();
			await release();
		}
	};
	// The folder is ours alone: whoever was writing is no more.
	await cache.sweep();
	await sweepInputs();
	await queue.start(jobHandlers(runtime));
	await uploads.landComplete();
	await endDeletedShoots(runtime);
	if (settings.demo) await ensureDemoShoot(runtime, demoFolder);
	void shoots.readNewest().catch((error: unknown) => log.warn({ err: error }, 'reading ahead'));
	return runtime;
}
