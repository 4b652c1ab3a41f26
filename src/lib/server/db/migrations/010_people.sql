-- Who speaks: people, the channels that hear them closest first, and what an editor says of when they speak.
create table person (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	name text not null,
	mark int not null,
	position int not null
);
create index person_shoot on person (shoot_id);
create table person_channel (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	person_id uuid not null references person on delete cascade,
	device_id uuid not null references device on delete cascade,
	channel int not null,
	position int not null
);
create index person_channel_shoot on person_channel (shoot_id);
create index person_channel_person on person_channel (person_id);
create index person_channel_device on person_channel (device_id);
-- Laid over what was found: the later one counts.
create table speech_correction (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	line_up_id uuid not null references line_up on delete cascade,
	person_id uuid not null references person on delete cascade,
	in_flicks bigint not null,
	out_flicks bigint not null,
	speaks boolean not null,
	position int not null
);
create index speech_correction_shoot on speech_correction (shoot_id);
create index speech_correction_line_up on speech_correction (line_up_id);
create index speech_correction_person on speech_correction (person_id);

-- What was measured and found on each line-up; it can be found again.
create table judgement (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	line_up_id uuid not null unique references line_up on delete cascade,
	-- Of all that it follows from: another one today means that it is to be found again.
	key text not null,
	result jsonb not null
);
create index judgement_shoot on judgement (shoot_id);
