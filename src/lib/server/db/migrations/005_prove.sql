-- What an editor proves and puts right.

-- A locked clip is moved by nothing, by hand or by a later run.
alter table placement add column locked boolean not null default false;
alter table placement drop constraint placement_method_check;
alter table placement add constraint placement_method_check
	check (method in ('audio', 'timecode', 'sync point', 'in point', 'out point', 'clip start', 'hand'));

-- In and out points, in the clip's own time.
alter table clip add column in_flicks bigint;
alter table clip add column out_flicks bigint;

-- How far its microphone stands from where the sound is made, and whether its clock is corrected.
alter table device add column air_metres double precision not null default 0 check (air_metres between -200 and 200);
alter table device add column corrects_drift boolean not null default true;
alter table shoot add column air_celsius double precision not null default 20 check (air_celsius between -40 and 60);

-- A moment that is seen, such as two hands that meet, against one that is heard.
alter table sync_point add column sense text not null default 'heard' check (sense in ('heard', 'seen'));

create table marker (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	line_up_id uuid not null references line_up on delete cascade,
	at_flicks bigint not null,
	name text not null check (length(name) between 1 and 100)
);

-- Single moments that speak for a pair: seconds in a, seconds in b, weight, one after another.
create table pair_moments (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	line_up_id uuid not null references line_up on delete cascade,
	clip_a uuid not null references clip on delete cascade,
	clip_b uuid not null references clip on delete cascade,
	moments jsonb not null
);
create index pair_moments_line_up on pair_moments (line_up_id);

-- Who has found the line-up in sync, and what it was then.
create table signature (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	line_up_id uuid not null references line_up on delete cascade,
	signed_by text not null check (length(signed_by) between 1 and 100),
	signed_on date not null,
	remark text not null default '',
	digest text not null,
	signed_at timestamptz not null default now()
);

do $$
declare
	name text;
begin
	foreach name in array array['marker', 'pair_moments', 'signature'] loop
		execute format('create trigger note_edit_change after insert or update or delete on %I for each row execute function note_edit_change()', name);
	end loop;
end
$$;

drop trigger note_edit_change on shoot;
create trigger note_edit_change after update of name, main_camera_id, rate, width, height, air_celsius on shoot
	for each row execute function note_edit_change();

-- Rows that an edit may bring back have the new columns too.
update edit_change set before = '{"locked": false}'::jsonb || before, after = '{"locked": false}'::jsonb || after
where table_name = 'placement';
update edit_change set
	before = '{"in_flicks": null, "out_flicks": null}'::jsonb || before,
	after = '{"in_flicks": null, "out_flicks": null}'::jsonb || after
where table_name = 'clip';
update edit_change set
	before = '{"air_metres": 0, "corrects_drift": true}'::jsonb || before,
	after = '{"air_metres": 0, "corrects_drift": true}'::jsonb || after
where table_name = 'device';
update edit_change set before = '{"sense": "heard"}'::jsonb || before, after = '{"sense": "heard"}'::jsonb || after
where table_name = 'sync_point';
update edit_change set before = '{"air_celsius": 20}'::jsonb || before, after = '{"air_celsius": 20}'::jsonb || after
where table_name = 'shoot';
