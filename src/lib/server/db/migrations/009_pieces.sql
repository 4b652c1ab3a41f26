-- Small pictures are made in pieces: which there are is seen in the caches.
alter table media_file drop column proxy_ready, drop column proxy_seconds;
