-- What the links of a site told of what its authors link, learnt at the end of a reading. It may be emptied at any time.
create table habits (
    site_id integer primary key references site on delete cascade,
    -- As it is written down; nothing where there were too few links.
    learnt text,
    -- Of the judge beside whose answers it was learnt, and links in content at that time.
    judge bytea not null check (octet_length(judge) = 32),
    links bigint not null check (links >= 0)
);

alter table site
    add follows_habits boolean not null default true;
