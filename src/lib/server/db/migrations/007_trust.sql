-- How often the server ended while a job ran: what ends it again and again is set aside.
alter table job add column crashes int not null default 0;
