-- A shoot's files come from several folders: those it was pointed at, and the one that uploads land in.
create table source (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	path text not null,
	kind text not null default 'folder' check (kind in ('folder', 'upload')),
	position int not null default 0,
	unique (shoot_id, path)
);
insert into source (shoot_id, path) select id, folder from shoot;

-- Why its clips are one device; a device is no longer one folder.
alter table device drop constraint device_shoot_id_folder_key;
alter table device add column reasons jsonb not null default '[]';
-- Names given by hand to its channels, by their number from 0.
alter table device add column people jsonb not null default '{}';

alter table media_file drop constraint media_file_state_check;
alter table media_file add constraint media_file_state_check check (state in ('waiting', 'probed', 'bad', 'missing'));
-- Content by size and digest of head and tail, whatever the file is called and wherever it lies.
alter table media_file add column digest text;
alter table media_file add column source_id uuid references source on delete set null;
update media_file set source_id = (select id from source where source.shoot_id = media_file.shoot_id);
-- One channel of the take that another file begins.
alter table media_file add column channel_of uuid references media_file on delete set null;
-- The first file of a take has the whole take's facts; what it says itself is kept here.
alter table media_file add column own_facts jsonb;
alter table media_file drop column device_folder;
-- Timecode that was recorded as sound: null until it was listened for, {} where there is none.
alter table media_file add column heard_timecode jsonb;
create index media_file_digest on media_file (digest);

-- Notes from the day. What the file says counts until it is changed.
alter table clip add column scene text not null default '';
alter table clip add column take text not null default '';
alter table clip add column circled boolean not null default false;
alter table clip add column note text not null default '';
-- Taken apart by hand: it is not joined again.
alter table clip add column is_apart boolean not null default false;

-- Rows that an edit may bring back have the new columns too.
update edit_change set
	before = '{"scene": "", "take": "", "circled": false, "note": "", "is_apart": false}'::jsonb || before,
	after = '{"scene": "", "take": "", "circled": false, "note": "", "is_apart": false}'::jsonb || after
where table_name = 'clip';
update edit_change set
	before = '{"reasons": [], "people": {}}'::jsonb || before,
	after = '{"reasons": [], "people": {}}'::jsonb || after
where table_name = 'device';

-- Frame rate and size of the line-up, where they are not the main camera's.
alter table shoot add column rate jsonb;
alter table shoot add column width int;
alter table shoot add column height int;
-- Deleted, but for a while it can be brought back.
alter table shoot add column deleted_at timestamptz;

drop trigger note_edit_change on shoot;
create trigger note_edit_change after update of name, main_camera_id, rate, width, height on shoot
	for each row execute function note_edit_change();

-- What holds for the whole installation.
create table setting (
	name text primary key,
	value jsonb not null
);
