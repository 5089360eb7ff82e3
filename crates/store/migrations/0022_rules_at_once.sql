-- The latest reading after which rules took what they link at once; what was read before is left to whoever looks.
alter table site add rules_after bigint;
update site set rules_after = (select max(id) from reading where site_id = site.id and state = 'done');
