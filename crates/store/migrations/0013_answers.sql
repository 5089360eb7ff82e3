-- What each order of a browser was answered, under the order's own number: one that comes twice, or twice at once, is
-- carried out once and answered alike. Kept longer than any browser asks again.

create table decision_answer (
    site_id integer not null references site on delete cascade,
    key uuid not null,
    -- The decision that was made, undone or done again, as it was told; nothing where there was none.
    kind text check (kind in ('take', 'drop', 'pass', 'bring back', 'repair')),
    changes bigint[] not null default '{}',
    source_number integer,
    target_number integer,
    anchor text not null default '',
    before_anchor text not null default '',
    after_anchor text not null default '',
    place bytea,
    -- Of many links, those that could not be taken, and why.
    refused jsonb not null default '[]',
    -- Why nothing was done.
    refusal text,
    answered_at timestamptz not null default now(),
    primary key (site_id, key),
    check (kind is null or refusal is null)
);

insert into decision_answer (site_id, key, kind, changes, source_number, target_number, anchor, before_anchor,
                             after_anchor, place)
select site_id, key, kind, changes, source_number, target_number, anchor, before_anchor, after_anchor, place
from decision;
insert into decision_answer (site_id, key, kind, changes, source_number, target_number, anchor, before_anchor,
                             after_anchor, place)
select site_id, turned_by, kind, changes, source_number, target_number, anchor, before_anchor, after_anchor, place
from decision where turned_by is not null
on conflict do nothing;
alter table decision drop column turned_by;
