-- What pages say of their place on the site, addresses that are one page, and readings that begin by themselves.

alter table page
    -- It asks search engines to leave it out.
    add noindex boolean not null default false,
    -- Another page that it names as the one to be linked to in its stead.
    add canonical text check (octet_length(canonical) <= 2000),
    -- The same page in other languages, as [{"language": …, "address": …}].
    add versions jsonb not null default '[]' check (jsonb_typeof(versions) = 'array'),
    drop constraint page_gone_check,
    -- The same: its address is another one of a page that is there.
    add constraint page_gone_check check (gone in ('vanished', 'moved', 'same'));

-- An address whose page is not published yet has no status.
alter table dead_address alter status drop not null;

alter table site
    -- Parameters of addresses that change nothing on the page; a name that ends in * stands for all that begin so.
    add ignored_parameters text[] not null
        default '{utm_*,gclid,fbclid,msclkid,mc_cid,mc_eid,phpsessid,jsessionid,sessionid,session_id,_ga}'
        check (cardinality(ignored_parameters) <= 100),
    add read_every text check (read_every in ('day', 'week', 'month'));

-- A reference checked row by row takes longer than all else in writing links and blocks, which come by the hundred
-- thousand: one check for each statement says the same.
alter table link drop constraint link_site_id_page_number_fkey;
alter table page_block drop constraint page_block_site_id_page_number_fkey;

create function refuse_rows_without_page() returns trigger language plpgsql as $$
begin
    if exists (select from (select distinct site_id, page_number from fresh) as named
               where not exists (select from page where page.site_id = named.site_id and number = named.page_number)) then
        raise foreign_key_violation using message = format('a row of %s names a page that is not there', tg_table_name);
    end if;
    return null;
end $$;
create trigger link_has_page after insert on link referencing new table as fresh
    for each statement execute function refuse_rows_without_page();
create trigger page_block_has_page after insert on page_block referencing new table as fresh
    for each statement execute function refuse_rows_without_page();

create function delete_rows_of_pages() returns trigger language plpgsql as $$
begin
    delete from link using gone where link.site_id = gone.site_id and link.page_number = gone.number;
    delete from page_block using gone where page_block.site_id = gone.site_id and page_block.page_number = gone.number;
    return null;
end $$;
create trigger page_takes_its_rows after delete on page referencing old table as gone
    for each statement execute function delete_rows_of_pages();
