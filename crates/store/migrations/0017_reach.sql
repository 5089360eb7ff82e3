-- Whether links that ask not to be followed are left out when click depth is counted.
alter table site add heeds_nofollow boolean not null default false;
