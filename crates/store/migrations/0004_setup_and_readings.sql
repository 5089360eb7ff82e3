-- What an editor sets for a site, and readings that can be stopped, gone on with and compared with the one before.

alter table site
    add source text not null default 'web' check (source in ('web', 'folder')),
    add folder text,
    -- Which links are roads when click depth is counted.
    add roads text not null default 'all' check (roads in ('all', 'content')),
    -- Further pages on which readers start.
    add entries text[] not null default '{}' check (cardinality(entries) <= 50),
    add most_pages integer not null default 20000 check (most_pages between 1 and 200000),
    add delay_ms integer not null default 0 check (delay_ms between 0 and 60000),
    add check ((source = 'folder') = (folder is not null));

alter table page rename source_html to source_text;
alter table page
    add source_format text not null default 'html' check (source_format in ('html', 'markdown')),
    -- Set when the last reading did not find it any more.
    add gone text check (gone in ('vanished', 'moved')),
    -- What the site said of this version, for asking again only when it changed.
    add etag text,
    add last_modified text,
    -- What a fragment can point at.
    add ids text[] not null default '{}',
    -- The reading in which it was first seen; unknown for pages that are older than this column.
    add first_reading bigint,
    -- What a file says of itself.
    add published text,
    add description text,
    add tags text[] not null default '{}';

-- Addresses of the site at which there is nothing.
create table dead_address (
    site_id integer not null references site on delete cascade,
    address text not null check (octet_length(address) <= 2000),
    status smallint not null,
    primary key (site_id, address)
);

drop index reading_under_way;
alter table reading drop constraint reading_state_check, drop constraint reading_check;
alter table reading
    add check (state in ('waiting', 'running', 'stopping', 'stopped', 'done', 'failed')),
    add check ((state in ('done', 'failed')) = (finished_at is not null)),
    -- Addresses that only send on, or were left out.
    add others integer not null default 0,
    -- Of the pages: new ones, and those that changed since the reading before.
    add fresh integer not null default 0,
    add changed integer not null default 0,
    add vanished integer not null default 0,
    add moved integer not null default 0,
    -- When it last began to run, and how many addresses were dealt with then: for its rate.
    add run_at timestamptz,
    add run_done integer not null default 0,
    -- When somebody last put it on the queue.
    add queued_at timestamptz not null default now();
create unique index reading_under_way on reading (site_id) where state in ('waiting', 'running', 'stopping');

-- Every address of a reading, and what became of it: a reading that broke off goes on with those that wait.
create table reading_address (
    reading_id bigint not null references reading on delete cascade,
    address text not null check (octet_length(address) <= 2000),
    ordinal bigint generated always as identity,
    outcome text check (outcome in ('new', 'changed', 'unchanged', 'file', 'redirect', 'moved', 'vanished', 'failed',
                                    'left out')),
    note text,
    primary key (reading_id, address)
);
create index reading_address_waiting on reading_address (reading_id, ordinal) where outcome is null;
create index reading_address_told on reading_address (reading_id, outcome, ordinal)
    where outcome in ('new', 'changed', 'moved', 'vanished', 'failed', 'left out');

alter table journal drop constraint journal_kind_check;
alter table journal add check (kind in ('pages', 'redirects', 'taken', 'passed', 'reading', 'release', 'site'));
