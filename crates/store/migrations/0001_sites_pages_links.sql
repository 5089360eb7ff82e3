-- Sites, their pages and the links on them, as last read.

create table site (
    id integer generated always as identity primary key,
    name text not null check (btrim(name) <> ''),
    entry text not null unique check (entry ~ '^https?://' and octet_length(entry) <= 2000),
    micropub text check (micropub ~ '^https?://'),
    -- The last sequence number of the site's journal.
    journal_at bigint not null default 0 check (journal_at >= 0),
    next_page integer not null default 1 check (next_page > 0),
    created_at timestamptz not null default now()
);

create table page (
    site_id integer not null references site on delete cascade,
    number integer not null check (number > 0),
    address text not null check (octet_length(address) <= 2000),
    kind text not null check (kind in ('page', 'post', 'product', 'collection', 'term archive', 'file')),
    title text not null,
    heading text,
    category text,
    language text not null,
    words integer not null check (words >= 0),
    -- Of the page as it was crawled.
    crawled_hash bytea not null check (octet_length(crawled_hash) = 32),
    -- The page's own content as crawled, to show it where there is no source.
    main_html text not null,
    -- The content as the editing interface gave it; what edits are made on.
    source_html text,
    source_hash bytea check (octet_length(source_hash) = 32),
    read_at timestamptz not null default now(),
    primary key (site_id, number),
    unique (site_id, address),
    check ((source_html is null) = (source_hash is null))
);

create table link (
    site_id integer not null,
    page_number integer not null,
    -- Place among the links of the page, from 0.
    ordinal integer not null check (ordinal >= 0),
    href text not null,
    -- Where it leads, without fragment.
    to_address text not null,
    fragment text,
    anchor text not null,
    region text not null check (region in ('content', 'menu', 'header', 'footer', 'aside')),
    is_tag boolean not null,
    primary key (site_id, page_number, ordinal),
    foreign key (site_id, page_number) references page on delete cascade
);
create index link_to_address on link using hash (to_address);

create table redirect (
    site_id integer not null references site on delete cascade,
    from_address text not null check (octet_length(from_address) <= 2000),
    to_address text not null check (octet_length(to_address) <= 2000),
    primary key (site_id, from_address),
    check (from_address <> to_address)
);

create table reading (
    id bigint generated always as identity primary key,
    site_id integer not null references site on delete cascade,
    state text not null default 'waiting' check (state in ('waiting', 'running', 'done', 'failed')),
    -- Addresses known so far, and of those the pages read, files found and addresses that failed.
    known integer not null default 0 check (known >= 0),
    pages integer not null default 0 check (pages >= 0),
    files integer not null default 0 check (files >= 0),
    failures integer not null default 0 check (failures >= 0),
    message text,
    created_at timestamptz not null default now(),
    finished_at timestamptz,
    check ((state in ('done', 'failed')) = (finished_at is not null))
);
-- A site is read once at a time.
create unique index reading_under_way on reading (site_id) where state in ('waiting', 'running');
