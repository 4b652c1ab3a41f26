-- Every row of a shoot tells of which one, so that all tables can be treated alike.
alter table clip_part add column shoot_id uuid references shoot on delete cascade;
update clip_part set shoot_id = (select shoot_id from clip where clip.id = clip_part.clip_id);
alter table clip_part alter column shoot_id set not null;
update edit_change set
	before = jsonb_build_object('shoot_id', edit.shoot_id) || before,
	after = jsonb_build_object('shoot_id', edit.shoot_id) || after
from edit where edit.id = edit_change.edit_id and table_name = 'clip_part';

-- Names of channels are no people yet.
alter table device rename column people to channel_names;
update edit_change set
	before = (before - 'people') || jsonb_build_object('channel_names', before -> 'people'),
	after = (after - 'people') || jsonb_build_object('channel_names', after -> 'people')
where table_name = 'device';

-- Each line-up has a master of its own: what was the shoot's is every line-up's now.
alter table master_channel add column line_up_id uuid references line_up on delete cascade;
alter table master_channel drop constraint master_channel_shoot_id_device_id_channel_key;
update master_channel set line_up_id = (
	select id from line_up where line_up.shoot_id = master_channel.shoot_id order by position, id limit 1
);
insert into master_channel (shoot_id, line_up_id, device_id, channel, gain_db, pan)
	select master_channel.shoot_id, line_up.id, device_id, channel, gain_db, pan
	from master_channel join line_up on line_up.shoot_id = master_channel.shoot_id and line_up.id <> master_channel.line_up_id;
delete from master_channel where line_up_id is null;
alter table master_channel alter column line_up_id set not null;
-- In the history it belongs to the first line-up, or to the one that the same shoot had last.
update edit_change set
	before = jsonb_build_object('line_up_id', owner.id) || before,
	after = jsonb_build_object('line_up_id', owner.id) || after
from edit, lateral (
	select coalesce(
		(select id from line_up where line_up.shoot_id = edit.shoot_id order by position, id limit 1),
		(select row_id from edit_change other join edit own on own.id = other.edit_id
			where own.shoot_id = edit.shoot_id and other.table_name = 'line_up' order by other.id desc limit 1)
	) as id
) as owner
where edit.id = edit_change.edit_id and table_name = 'master_channel';
delete from edit_change where table_name = 'master_channel' and coalesce(before, after) -> 'line_up_id' = 'null';

alter table hand_off add column line_up_id uuid references line_up on delete set null;
-- Which kinds there are is told by the list of hand-offs, not here.
alter table hand_off drop constraint hand_off_kind_check;

-- Undo puts rows back one after another; only when all are there must they be one of a kind.
alter table master_channel add constraint master_channel_once unique (line_up_id, device_id, channel) deferrable initially deferred;
alter table clip_part drop constraint clip_part_place;
alter table clip_part add constraint clip_part_place unique (clip_id, position) deferrable initially deferred;
alter table placement drop constraint placement_clip_id_key;
alter table placement add constraint placement_of_clip unique (clip_id) deferrable initially deferred;
alter table stray drop constraint stray_clip_id_key;
alter table stray add constraint stray_of_clip unique (clip_id) deferrable initially deferred;
alter table program drop constraint program_line_up_id_key;
alter table program add constraint program_of_line_up unique (line_up_id) deferrable initially deferred;

-- A movie is one kind of hand-off among others.
update job set kind = 'hand-off', input = input || '{"kind": "movie"}' where kind = 'render';

-- Renamed: "lay" was no word for it.
update edit set command = jsonb_set(command, '{kind}', '"place-by-edge"') where command ->> 'kind' = 'lay-by-edge';

-- What is asked for by shoot, clip or line-up is found without reading all.
create index device_shoot on device (shoot_id);
create index media_file_channel_of on media_file (channel_of) where channel_of is not null;
create index clip_shoot on clip (shoot_id);
create index clip_device on clip (device_id);
create index clip_part_shoot on clip_part (shoot_id);
create index clip_part_file on clip_part (file_id);
create index line_up_shoot on line_up (shoot_id);
create index placement_shoot on placement (shoot_id);
create index placement_line_up on placement (line_up_id);
create index stray_shoot on stray (shoot_id);
create index sync_point_shoot on sync_point (shoot_id);
create index sync_point_clip on sync_point (clip_id);
create index marker_shoot on marker (shoot_id);
create index signature_shoot on signature (shoot_id);
create index pair_moments_shoot on pair_moments (shoot_id);
create index pair_moments_clip_a on pair_moments (clip_a);
create index pair_moments_clip_b on pair_moments (clip_b);
create index master_channel_shoot on master_channel (shoot_id);
create index master_channel_device on master_channel (device_id);
create index program_shoot on program (shoot_id);
create index program_call_shoot on program_call (shoot_id);
create index program_call_line_up on program_call (line_up_id);
create index program_call_device on program_call (device_id);
create index edit_steps on edit (shoot_id, state, id);
create index job_shoot on job (shoot_id, created_at desc);
create index hand_off_shoot on hand_off (shoot_id);

-- Rows that have changed and of which no page was told yet. Worth nothing after a restart: every page reads anew then.
create unlogged table changed_row (
	shoot_id uuid not null,
	table_name text not null,
	row_id uuid not null
);
create index changed_row_shoot on changed_row (shoot_id);

do $$
declare
	name text;
begin
	for name in select event_object_table from information_schema.triggers where trigger_name = 'note_edit_change' group by 1 loop
		execute format('drop trigger note_edit_change on %I', name);
	end loop;
end
$$;
drop function note_edit_change();

-- Notes each row that has changed. Within a transaction that has named its edit, also what it was and what it became, as far
-- as its table holds decisions: 'all' of its columns, 'none', or those that are named.
create function note_change() returns trigger language plpgsql as $$
declare
	edit_id text := current_setting('open_choir.edit_id', true);
	was jsonb;
	is_now jsonb;
	decides boolean := tg_argv[0] = 'all';
begin
	if tg_op <> 'INSERT' then was := to_jsonb(old) - 'revision'; end if;
	if tg_op <> 'DELETE' then is_now := to_jsonb(new) - 'revision'; end if;
	if was is not distinct from is_now then return null; end if;
	insert into changed_row (shoot_id, table_name, row_id) values (
		(coalesce(is_now, was) ->> case when tg_table_name = 'shoot' then 'id' else 'shoot_id' end)::uuid,
		tg_table_name,
		(coalesce(is_now, was) ->> 'id')::uuid
	);
	if edit_id is null or edit_id = '' then return null; end if;
	if tg_op = 'UPDATE' and not decides then
		for i in 0 .. tg_nargs - 1 loop
			decides := decides or was -> tg_argv[i] is distinct from is_now -> tg_argv[i];
		end loop;
	end if;
	if decides then
		insert into edit_change (edit_id, table_name, row_id, before, after)
		values (edit_id::bigint, tg_table_name, (coalesce(is_now, was) ->> 'id')::uuid, was, is_now);
	end if;
	return null;
end
$$;
