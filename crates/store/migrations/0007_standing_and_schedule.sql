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
        default '{utm_*,gclid,fbclid,msclkid,mc_cid,mc_eid,phpsessid,jsessionid,sessionid,session_id,sid,_ga}'
        check (cardinality(ignored_parameters) <= 100),
    add read_every text check (read_every in ('day', 'week', 'month'));
