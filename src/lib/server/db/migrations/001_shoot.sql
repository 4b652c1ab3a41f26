-- The shoot and all that is decided about it. Times are whole flicks (1/705 600 000 s).

create table shoot (
	id uuid primary key default gen_random_uuid(),
	name text not null check (length(name) between 1 and 200),
	folder text not null,
	main_camera_id uuid,
	is_demo boolean not null default false,
	revision bigint not null default 1,
	created_at timestamptz not null default now()
);

create table device (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	folder text not null,
	name text not null check (length(name) between 1 and 100),
	badge text not null check (length(badge) between 1 and 3),
	kind text not null check (kind in ('camera', 'recorder')),
	position int not null,
	unique (shoot_id, folder)
);

create table media_file (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	path text not null,
	relative_path text not null,
	device_folder text not null,
	size_bytes bigint not null,
	modified_ms bigint not null,
	identity text,
	state text not null default 'waiting' check (state in ('waiting', 'probed', 'bad')),
	reason text,
	facts jsonb,
	listening_samples bigint,
	proxy_ready boolean not null default false,
	sharp_sounds jsonb not null default '[]',
	unique (shoot_id, path)
);

create table clip (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	device_id uuid not null references device on delete cascade,
	name text not null check (length(name) between 1 and 200),
	duration_flicks bigint not null,
	position int not null
);

create table clip_part (
	clip_id uuid not null references clip on delete cascade,
	file_id uuid not null references media_file on delete cascade,
	position int not null,
	offset_flicks bigint not null,
	primary key (clip_id, position)
);

create table line_up (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	reference_device_id uuid not null references device on delete cascade,
	position int not null
);

create table placement (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	clip_id uuid not null unique references clip on delete cascade,
	line_up_id uuid not null references line_up on delete cascade,
	start_flicks bigint not null,
	rate_ppm double precision not null,
	method text not null check (method in ('audio', 'sync point', 'hand')),
	confidence double precision not null,
	residual_seconds double precision not null,
	by_hand boolean not null default false
);

create table stray (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	clip_id uuid not null unique references clip on delete cascade,
	reason text not null
);

create table sync_point (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	clip_id uuid not null references clip on delete cascade,
	name text not null check (length(name) between 1 and 100),
	media_flicks bigint not null
);

create table master_channel (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	device_id uuid not null references device on delete cascade,
	channel int not null check (channel >= 0),
	gain_db double precision not null default 0 check (gain_db between -60 and 24),
	pan double precision not null default 0 check (pan between -1 and 1),
	unique (shoot_id, device_id, channel)
);

create table program (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	line_up_id uuid not null unique references line_up on delete cascade,
	in_flicks bigint not null,
	out_flicks bigint not null,
	check (out_flicks > in_flicks)
);

create table program_call (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	line_up_id uuid not null references line_up on delete cascade,
	at_flicks bigint not null,
	device_id uuid not null references device on delete cascade
);

-- Every change is an edit. Undo and redo are read from what the edit changed.
create table edit (
	id bigint generated always as identity primary key,
	shoot_id uuid not null references shoot on delete cascade,
	at timestamptz not null default now(),
	label text not null,
	command jsonb not null,
	state text not null default 'done' check (state in ('done', 'undone', 'dropped'))
);

create table edit_change (
	id bigint generated always as identity primary key,
	edit_id bigint not null references edit on delete cascade,
	table_name text not null,
	row_id uuid not null,
	before jsonb,
	after jsonb
);
create index edit_change_edit on edit_change (edit_id);

-- Within a transaction that has named its edit, each changed row is noted with what it was and what it became.
create function note_edit_change() returns trigger language plpgsql as $$
declare
	edit_id text := current_setting('open_choir.edit_id', true);
begin
	if edit_id is not null and edit_id <> '' then
		insert into edit_change (edit_id, table_name, row_id, before, after)
		values (
			edit_id::bigint,
			tg_table_name,
			case when tg_op = 'DELETE' then old.id else new.id end,
			case when tg_op = 'INSERT' then null else to_jsonb(old) end,
			case when tg_op = 'DELETE' then null else to_jsonb(new) end
		);
	end if;
	return null;
end
$$;

do $$
declare
	name text;
begin
	foreach name in array array['device', 'clip', 'line_up', 'placement', 'stray', 'sync_point', 'master_channel', 'program', 'program_call'] loop
		execute format('create trigger note_edit_change after insert or update or delete on %I for each row execute function note_edit_change()', name);
	end loop;
end
$$;

create table job (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	kind text not null,
	title text not null,
	input jsonb not null default '{}',
	state text not null default 'waiting' check (state in ('waiting', 'running', 'done', 'failed', 'stopped')),
	share double precision not null default 0,
	message text not null default '',
	seconds_left double precision,
	error text,
	output jsonb,
	created_at timestamptz not null default now(),
	heartbeat_at timestamptz,
	ended_at timestamptz
);

create table hand_off (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	kind text not null check (kind in ('movie', 'otio')),
	name text not null,
	path text not null,
	size_bytes bigint not null,
	sha256 text not null,
	made_at timestamptz not null default now()
);

create trigger note_edit_change after update of name, main_camera_id on shoot for each row execute function note_edit_change();
