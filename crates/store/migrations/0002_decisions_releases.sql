-- What the editor decides, and what of it went out to the site.

create table release (
    id bigint generated always as identity primary key,
    site_id integer not null references site on delete cascade,
    state text not null default 'waiting'
        check (state in ('waiting', 'running', 'out', 'taking back', 'taken back')),
    created_at timestamptz not null default now(),
    finished_at timestamptz,
    taken_back_at timestamptz
);
-- Releases of one site go one after the other.
create unique index release_under_way on release (site_id) where state in ('waiting', 'running', 'taking back');

create table taken_link (
    id bigint generated always as identity primary key,
    site_id integer not null,
    source_number integer not null,
    target_number integer not null,
    -- The words, as byte offsets into the text of the version of the source with this hash.
    words_start integer not null check (words_start >= 0),
    words_end integer not null check (words_end > words_start),
    source_hash bytea not null check (octet_length(source_hash) = 32),
    anchor text not null check (btrim(anchor) <> ''),
    -- The sentence around the words, white space folded, before and after them.
    before_anchor text not null,
    after_anchor text not null,
    href text not null,
    fit real not null check (fit between 0 and 100),
    state text not null default 'tray' check (state in ('tray', 'releasing', 'out', 'dropped', 'taken back')),
    release_id bigint references release on delete cascade,
    -- Why it was held back when it was last to go out.
    message text,
    taken_at timestamptz not null default now(),
    foreign key (site_id, source_number) references page on delete cascade,
    foreign key (site_id, target_number) references page on delete cascade,
    check (source_number <> target_number),
    check (state in ('tray', 'dropped') or release_id is not null)
);
create unique index taken_link_open on taken_link (site_id, source_number, target_number)
    where state in ('tray', 'releasing');
create index taken_link_release on taken_link (release_id);

create table passed_opening (
    site_id integer not null,
    source_number integer not null,
    target_number integer not null,
    anchor text not null,
    passed_at timestamptz not null default now(),
    primary key (site_id, source_number, target_number),
    foreign key (site_id, source_number) references page on delete cascade,
    foreign key (site_id, target_number) references page on delete cascade
);

create table release_page (
    release_id bigint not null references release on delete cascade,
    site_id integer not null,
    page_number integer not null,
    state text not null default 'waiting'
        check (state in ('waiting', 'out', 'held back', 'taken back', 'not taken back')),
    -- The page's source before and after, once it is about to go out.
    before_html text,
    after_html text,
    message text,
    primary key (release_id, page_number),
    foreign key (site_id, page_number) references page on delete cascade,
    check (state not in ('out', 'taken back', 'not taken back') or (before_html is not null and after_html is not null)),
    check (state not in ('held back', 'not taken back') or message is not null)
);
