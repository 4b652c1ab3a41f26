import type { CommandKind, CommandOf } from '../../contract/commands/commands';
import type { Shoot } from '../../core/shoot/shoot';
import type { Queryable } from '../db/database';

/** Where a command is carried out: in one transaction, on the shoot as it stood before. */
export interface EditContext {
	readonly transaction: Queryable;
	readonly shoot: Shoot;
}

/** One command: what it is called in the list of changes, and how it is carried out. What it carries stands in the contract. */
export interface CommandEntry<Kind extends CommandKind> {
	/** In words, before it is carried out. @throws ShootError something that it names is not there */
	readonly label: (shoot: Shoot, command: CommandOf<Kind>) => string;
	/** @returns other words, where only the doing tells them @throws ShootError it cannot be done */
	readonly apply: (context: EditContext, command: CommandOf<Kind>) => Promise<string | void>;
	/** What files are is changed by it: sound and pictures are to be made anew. */
	readonly changesFiles?: true;
}

/** Entries for commands of these kinds, each of them. */
export type CommandEntries<Kinds extends CommandKind> = { readonly [Kind in Kinds]: CommandEntry<Kind> };
