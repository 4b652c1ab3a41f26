import { compile, type Shown } from '../program/compile';
import { masterTitle } from '../master/words';
import type { StoredProgram } from '../shoot/decisions';
import { masterOf } from '../shoot/lookup';
import type { Shoot } from '../shoot/shoot';
import { timecodeOfFrame } from '../time/timecode';

/** One row of the list of shots; times are timecodes of the line-up. */
export interface ShotRow {
	readonly shot: number;
	readonly in: string;
	readonly out: string;
	readonly frames: number;
	readonly called: string;
	/** The angle that is seen: another one where the called one has no picture. */
	readonly shown: string;
	readonly clip: string;
	readonly file: string;
	/** What the audience hears: devices, and the channels or people of each. */
	readonly heard: string;
	readonly remark: string;
}

const REMARKS: Readonly<Record<Shown['kind'], string>> = {
	called: '',
	'stand-in': 'stands in: the called angle has no picture here',
	held: 'held: no camera has a picture here',
	black: 'no camera has a picture anywhere in the program'
};

/** What a program shows, stretch by stretch, as the movie shows it. */
export function shotList(shoot: Shoot, program: StoredProgram): readonly ShotRow[] {
	const device = (id: string) => shoot.devices.find((one) => one.id === id);
	const name = (id: string) => `${device(id)?.badge ?? ''} ${device(id)?.name ?? ''}`.trim();
	const clips = new Map(shoot.clips.map((clip) => [clip.id, clip]));
	const timecode = (frame: number) => timecodeOfFrame(frame, shoot.rate);
	const heard = masterTitle(shoot, masterOf(shoot, program.lineUpId));
	const calls: string[] = [];
	return compile(shoot, program).pictures.map(({ fromFrame, toFrame, callId, calledDeviceId, shown }) => {
		if (calls.at(-1) !== callId) calls.push(callId);
		const source = shown.kind === 'black' ? undefined : shown.source;
		const clip = source && clips.get(source.clipId);
		return {
			shot: calls.length,
			in: timecode(fromFrame),
			out: timecode(toFrame),
			frames: toFrame - fromFrame,
			called: name(calledDeviceId),
			shown: source ? name(source.deviceId) : '',
			clip: clip?.name ?? '',
			file: clip?.parts.find((part) => part.fileId === source?.fileId)?.relativePath ?? '',
			heard,
			remark: REMARKS[shown.kind]
		};
	});
}
