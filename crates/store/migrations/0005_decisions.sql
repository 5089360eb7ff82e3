-- Every decision, so that it can be undone and done again; and releases that are interrupted.

create table decision (
    id bigint generated always as identity primary key,
    site_id integer not null references site on delete cascade,
    -- Who decided: a browser's own number, kept there.
    hand uuid not null,
    -- The decision's own number, so that one that is sent twice is made once.
    key uuid not null,
    kind text not null check (kind in ('take', 'drop', 'pass', 'bring back')),
    changes bigint[] not null default '{}',
    source_number integer,
    target_number integer,
    -- The words, to recognise it by.
    anchor text not null,
    undone boolean not null default false,
    -- Number of the order that last undid it or did it again, so that one that is sent twice is done once.
    turned_by uuid,
    made_at timestamptz not null default now(),
    unique (site_id, key),
    foreign key (site_id, source_number) references page on delete cascade,
    foreign key (site_id, target_number) references page on delete cascade,
    check (kind in ('take', 'drop') or (source_number is not null and target_number is not null)),
    check (kind in ('pass', 'bring back') or cardinality(changes) > 0)
);
create index decision_of_hand on decision (site_id, hand, id desc);

-- The same words cannot carry two links, whoever decides first.
create extension if not exists btree_gist;
alter table taken_link add constraint taken_link_words
    exclude using gist (site_id with =, source_number with =, source_hash with =,
                        int4range(words_start, words_end) with &&)
    where (state in ('tray', 'releasing'));

drop index release_under_way;
alter table release drop constraint release_state_check;
alter table release
    add check (state in ('waiting', 'running', 'interrupted', 'out', 'taking back', 'taken back')),
    -- Why it was interrupted.
    add message text,
    add queued_at timestamptz not null default now();
create unique index release_under_way on release (site_id)
    where state in ('waiting', 'running', 'interrupted', 'taking back');
