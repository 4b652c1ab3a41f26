import type { SourcesReport } from '../../../core/master/report';
import { type HeardSpeech, heardSpeech } from '../../../core/program/heard-speech';
import type { Shoot } from '../../../core/shoot/shoot';
import type { Runtime } from '../../runtime';
import { lineUpOf } from '../../shoots/found';
import { ShootError } from '../../shoots/shoot-error';

/**
 * What is known of who speaks on a line-up: as it was found last, as pages see it, with what an editor says of it. The mix that
 * leaves is made by it.
 * @throws ShootError the mix opens by who speaks, and nobody has listened yet
 */
export async function whoIsHeard(
	{ database }: Pick<Runtime, 'database'>,
	shoot: Shoot,
	lineUpId: string
): Promise<HeardSpeech> {
	const [row] = await database.query<{ result: SourcesReport }>('select result from judgement where line_up_id = $1', [
		lineUpId
	]);
	const { corrections, mix } = lineUpOf(shoot, lineUpId);
	if (!row && mix.opensBySpeech)
		throw new ShootError(
			'speech-not-known',
			'Microphones are to open by who speaks, and that is not known yet. Open Master, wait until it has listened, and hand off again.'
		);
	return heardSpeech(shoot.people, row?.result, corrections);
}
