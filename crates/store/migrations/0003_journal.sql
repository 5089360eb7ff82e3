-- Every change of a site is a row in its journal, in order. Processes that hold a model of the site follow it.

create table journal (
    site_id integer not null references site on delete cascade,
    seq bigint not null check (seq > 0),
    kind text not null check (kind in ('pages', 'redirects', 'taken', 'passed', 'reading', 'release')),
    -- Numbers of the pages that changed; for 'passed' the source and the target.
    pages integer[] not null default '{}',
    -- Ids of the taken links that changed.
    changes bigint[] not null default '{}',
    at timestamptz not null default now(),
    primary key (site_id, seq)
);

-- Appends to the journal and tells whoever listens. Holds the site's row until the end of the transaction, so that
-- rows become visible in their order: call it last.
create function journal_append(of_site integer, of_kind text, of_pages integer[], of_changes bigint[])
returns bigint language plpgsql as $$
declare
    next_seq bigint;
begin
    update site set journal_at = journal_at + 1 where id = of_site returning journal_at into strict next_seq;
    insert into journal (site_id, seq, kind, pages, changes) values (of_site, next_seq, of_kind, of_pages, of_changes);
    perform pg_notify('strelm_journal', of_site || ':' || next_seq);
    return next_seq;
end
$$;
