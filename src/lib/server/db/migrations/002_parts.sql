-- A clip that lost samples lies in parts: from a media time on, a start of its own.
alter table placement add column parts jsonb not null default '[]';
alter table placement drop constraint placement_method_check;
alter table placement add constraint placement_method_check
	check (method in ('audio', 'timecode', 'sync point', 'in point', 'out point', 'clip start', 'hand'));
-- Why in more words, such as the places an ambiguous clip could have.
alter table stray add column detail text not null default '';
