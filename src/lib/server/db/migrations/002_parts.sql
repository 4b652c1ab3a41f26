-- A clip that lost samples is taken apart into several clips; that is an edit like any other.
alter table clip_part drop constraint clip_part_pkey;
alter table clip_part add column id uuid primary key default gen_random_uuid();
alter table clip_part add constraint clip_part_place unique (clip_id, position);
create trigger note_edit_change after insert or update or delete on clip_part
	for each row execute function note_edit_change();

-- More ways to a place than sound.
alter table placement drop constraint placement_method_check;
alter table placement add constraint placement_method_check
	check (method in ('audio', 'timecode', 'sync point', 'hand'));

-- What speaks for a line-up's places, pair by pair, and what the devices' timecodes are worth.
alter table line_up add column evidence jsonb not null default '[]';
alter table line_up add column clocks jsonb not null default '[]';

-- Why a clip has no place in more words, such as the places it could have.
alter table stray add column detail text not null default '';
