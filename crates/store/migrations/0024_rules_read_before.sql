-- The latest reading that had begun when a rule became what it is: what that one read, and all before it, is left to whoever looks.
alter table link_rule add read_before bigint;
update link_rule set read_before = (select max(id) from reading where site_id = link_rule.site_id);
