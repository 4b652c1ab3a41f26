-- Part of a scene that one setting of the camera shows.
alter table clip add column shot text not null default '';
-- Nothing asks for it: a clip that is there is never joined again by itself.
alter table clip drop column is_apart;
update edit_change set
	before = '{"shot": ""}'::jsonb || (before - 'is_apart'),
	after = '{"shot": ""}'::jsonb || (after - 'is_apart')
where table_name = 'clip';

-- How much of the small picture can be played while it is being made.
alter table media_file add column proxy_seconds double precision not null default 0;

-- A take of one file a channel can be taken apart by hand, and put together again by undoing that.
create trigger note_edit_change after update of own_facts, channel_of on media_file
	for each row execute function note_edit_change();
