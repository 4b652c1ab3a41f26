-- The mix that the audience hears: more of each channel, what stands in where the master has a gap, and who opens it.
alter table master_channel
	-- 0 is the master; the others stand in for it, in this order.
	add column turn int not null default 0 check (turn between 0 and 63),
	add column is_inverted boolean not null default false,
	-- 0 takes nothing away.
	add column low_cut_hz double precision not null default 0 check (low_cut_hz between 0 and 400),
	-- By how much it is heard later than it was recorded.
	add column shift_flicks bigint not null default 0 check (shift_flicks between -70560000 and 70560000);
alter table master_channel drop constraint master_channel_once;
alter table master_channel add constraint master_channel_once unique (line_up_id, turn, device_id, channel) deferrable initially deferred;
update edit_change set
	before = '{"turn": 0, "is_inverted": false, "low_cut_hz": 0, "shift_flicks": 0}'::jsonb || before,
	after = '{"turn": 0, "is_inverted": false, "low_cut_hz": 0, "shift_flicks": 0}'::jsonb || after
where table_name = 'master_channel';

create table mix (
	id uuid primary key default gen_random_uuid(),
	shoot_id uuid not null references shoot on delete cascade,
	line_up_id uuid not null references line_up on delete cascade,
	opens_by_speech boolean not null,
	closed_db double precision not null check (closed_db between -40 and 0),
	covers_gaps boolean not null,
	constraint mix_of_line_up unique (line_up_id) deferrable initially deferred
);
create index mix_shoot on mix (shoot_id);
