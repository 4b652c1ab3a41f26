-- How a clip's clock bends: moments of its media, and how much later they lie than start and rate alone say.
alter table placement add column bend jsonb;
