-- Links lead to more than pages, and say more than where they lead.

-- Pages that are to come. Links can be planned to them before they are there.
create table planned_page (
    id bigint generated always as identity primary key,
    site_id integer not null references site on delete cascade,
    -- Where it is to be.
    address text not null check (octet_length(address) <= 2000),
    title text not null,
    unique (site_id, address)
);

alter table taken_link
    -- The kind of core's Target; nothing where words lead nowhere afterwards, or where they did.
    add target_kind text
        check (target_kind in ('page', 'place', 'planned page', 'outside', 'mail', 'phone', 'file')),
    -- The id of a place on a page, as it is; the place on a page of another site, as its address writes it.
    add target_place text check (octet_length(target_place) <= 2000),
    -- The whole address of what is no page of the site.
    add target_address text check (octet_length(target_address) <= 8000),
    add target_planned bigint references planned_page on delete cascade,
    -- What else the link says: a list of core's LinkSays.
    add says jsonb not null default '[]' check (jsonb_typeof(says) = 'array'),
    drop constraint taken_link_check,
    drop constraint taken_link_check1,
    drop constraint taken_link_check3,
    drop constraint taken_link_check4,
    drop constraint taken_link_check5,
    drop constraint taken_link_kind_check;

-- What was written behind the # until now is the id of a place, percent-encoded.
create function percent_decoded(text) returns text language plpgsql immutable as $$
begin
    return (select coalesce(convert_from(string_agg(
                case when piece[1] ~ '^%[0-9A-Fa-f]{2}$' then decode(substr(piece[1], 2), 'hex')
                     else convert_to(piece[1], 'utf8') end, ''::bytea order by at), 'utf8'), '')
            from regexp_matches($1, '%[0-9A-Fa-f]{2}|.', 'gs') with ordinality as pieces (piece, at));
exception when others then
    -- Bytes that are no text.
    return $1;
end $$;
update taken_link set
    target_kind = case when position('#' in href) > 0 and not href like '%#' then 'place' else 'page' end,
    target_place = nullif(percent_decoded(substr(href, nullif(position('#' in href), 0) + 1)), '')
where target_number is not null;
drop function percent_decoded(text);

alter table taken_link
    add constraint taken_link_kind_check
        check (kind in ('put', 'retarget', 'unlink', 'reword', 'picture', 'attributes')),
    add constraint taken_link_old
        check ((kind in ('put', 'reword', 'picture')) = (from_href is null)
               and (kind in ('put', 'reword', 'picture')) = (from_address is null)),
    add constraint taken_link_target check ((kind in ('unlink', 'attributes')) = (target_kind is null)),
    add constraint taken_link_target_parts check (
        (target_number is not null) = coalesce(target_kind in ('page', 'place'), false)
        and (target_planned is not null) = coalesce(target_kind = 'planned page', false)
        and (target_address is not null) = coalesce(target_kind in ('outside', 'mail', 'phone', 'file'), false)
        and (target_place is null or target_kind in ('place', 'outside'))
        and (target_kind is distinct from 'place' or target_place is not null)),
    -- A page leads to another, or to a place on itself.
    add constraint taken_link_elsewhere check (target_kind = 'place' or source_number <> target_number);
create unique index taken_link_open_elsewhere
    on taken_link (site_id, source_number, target_kind, target_planned, target_address) nulls not distinct
    where state in ('tray', 'releasing', 'handed over') and kind in ('put', 'reword', 'picture') and target_number is null;
create index taken_link_planned on taken_link (target_planned) where target_planned is not null;

alter table link
    -- What it says beside where it leads, as core's LinkAttributes; nothing where it says nothing.
    add says jsonb;
-- The next reading looks at each page again.
update page set etag = null, last_modified = null, crawled_hash = decode(repeat('00', 32), 'hex')
where gone is null and exists (select from link where link.site_id = page.site_id and link.page_number = page.number);

-- What most pages of a site have in common goes by the name that the trade has for it.
alter table furniture rename to boilerplate;

-- Whoever listens is told what kind of change it was, too.
create or replace function journal_append(of_site integer, of_kind text, of_pages integer[], of_changes bigint[])
returns bigint language plpgsql as $$
declare
    next_seq bigint;
begin
    update site set journal_at = journal_at + 1 where id = of_site returning journal_at into strict next_seq;
    insert into journal (site_id, seq, kind, pages, changes) values (of_site, next_seq, of_kind, of_pages, of_changes);
    perform pg_notify('strelm_journal', of_site || ':' || next_seq || ':' || of_kind);
    return next_seq;
end
$$;
