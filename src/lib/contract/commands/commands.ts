import { z } from 'zod';
import { CALL_COMMANDS } from './call';
import { GATHER_COMMANDS } from './gather';
import { MASTER_COMMANDS } from './master';
import { PROVE_COMMANDS } from './prove';
import { SHOOT_COMMANDS } from './shoot';

/** What each command carries. How it is carried out stands under the same name in the server's stages. */
export const COMMANDS = {
	...SHOOT_COMMANDS,
	...GATHER_COMMANDS,
	...PROVE_COMMANDS,
	...MASTER_COMMANDS,
	...CALL_COMMANDS
} as const;

export type CommandKind = keyof typeof COMMANDS;
/** A command of one kind, as the server reads it. */
export type CommandOf<Kind extends CommandKind> = z.output<(typeof COMMANDS)[Kind]>;
/** What an editor can ask to change. */
export type Command = { [Kind in CommandKind]: { readonly kind: Kind } & CommandOf<Kind> }[CommandKind];
/** A command as the page sends it: what has a default may be left out. */
export type CommandInput = {
	[Kind in CommandKind]: { readonly kind: Kind } & ReadonlyDeep<z.input<(typeof COMMANDS)[Kind]>>;
}[CommandKind];

type ReadonlyDeep<Value> = Value extends readonly (infer Item)[]
	? readonly ReadonlyDeep<Item>[]
	: Value extends object
		? { readonly [Key in keyof Value]: ReadonlyDeep<Value[Key]> }
		: Value;

const Known = z.object({ kind: z.enum(Object.keys(COMMANDS) as [CommandKind, ...CommandKind[]]) });

/** Reads a command. @throws ZodError it is none, or what it carries is not valid */
export function parseCommand(sent: unknown): Command {
	const { kind } = Known.parse(sent);
	return { kind, ...COMMANDS[kind].parse(sent) } as Command;
}
