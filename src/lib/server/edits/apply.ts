import type { Change } from '../../contract/changes';
import type { Command, CommandKind } from '../../contract/commands/commands';
import { SHOOT_ENTRIES } from '../shoots/commands';
import { CALL_ENTRIES } from '../stages/call/commands';
import { GATHER_ENTRIES } from '../stages/gather/commands';
import { MASTER_ENTRIES } from '../stages/master/commands';
import { PROVE_ENTRIES } from '../stages/prove/commands';
import type { Shoots } from './change';
import type { CommandEntries, CommandEntry } from './command';
import { recordEdit } from './log';

/** Every command of the contract; the compiler says which one is missing. */
export const COMMAND_ENTRIES: CommandEntries<CommandKind> = {
	...SHOOT_ENTRIES,
	...GATHER_ENTRIES,
	...PROVE_ENTRIES,
	...MASTER_ENTRIES,
	...CALL_ENTRIES
};

/** Carries out an editor's command as an edit. @throws ShootError it cannot be done */
export function applyEdit(shoots: Shoots, shootId: string, command: Command): Promise<Change> {
	const entry = COMMAND_ENTRIES[command.kind] as CommandEntry<CommandKind>;
	return recordEdit(shoots, shootId, command, async (transaction, before) => {
		const shoot = await before();
		const label = entry.label(shoot, command as never);
		return (await entry.apply({ transaction, shoot }, command as never)) ?? label;
	});
}
