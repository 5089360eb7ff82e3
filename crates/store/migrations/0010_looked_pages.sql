-- What was found on pages when they were looked at for openings, so that a server that starts anew need not look again.
-- It may be emptied at any time.
create table looked_page (
    site_id integer not null,
    page_number integer not null,
    -- Of the source that was looked at, and of what judged it.
    version bytea not null check (octet_length(version) = 32),
    judge bytea not null,
    found bytea not null,
    primary key (site_id, page_number),
    foreign key (site_id, page_number) references page (site_id, number) on delete cascade
);
