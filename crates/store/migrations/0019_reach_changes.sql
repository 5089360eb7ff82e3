-- How readers got to each page at the end of the latest reading, to tell after the next what came within reach and what was
-- lost: 16 bytes for each page, as the core writes them.
create table reach_trace (
    site_id integer primary key references site on delete cascade,
    reading_id bigint not null,
    traces bytea not null
);

-- What came within reach and what was lost with the latest reading.
create table reach_change (
    site_id integer not null references site on delete cascade,
    page_number integer not null,
    came boolean not null,
    -- The kind of core's ReachEdit, and the pages that it names.
    edit text not null check (edit in ('link', 'page', 'redirect', 'entry')),
    from_page integer,
    to_page integer not null,
    primary key (site_id, page_number)
);
