-- Links of pages can be changed, not only added; and pages have more regions.

alter table taken_link
    -- What is done: a link put on words, one that leads elsewhere from now on, or one taken off its words.
    add kind text not null default 'put' check (kind in ('put', 'retarget', 'unlink')),
    -- What is written as the target until then, and where that leads.
    add from_href text,
    add from_address text,
    add from_fragment text,
    alter target_number drop not null,
    drop constraint taken_link_check,
    add check (kind <> 'put' or source_number <> target_number),
    add check ((kind = 'put') = (from_href is null)),
    add check ((kind = 'put') = (from_address is null)),
    add check ((kind = 'unlink') = (target_number is null));
drop index taken_link_open;
create unique index taken_link_open on taken_link (site_id, source_number, target_number)
    where state in ('tray', 'releasing') and kind = 'put';

alter table decision
    drop constraint decision_kind_check,
    drop constraint decision_check,
    drop constraint decision_check1,
    add check (kind in ('take', 'drop', 'pass', 'bring back', 'repair')),
    add check (kind in ('take', 'drop', 'repair') or (source_number is not null and target_number is not null)),
    add check (kind in ('pass', 'bring back') or cardinality(changes) > 0);

alter table link
    drop constraint link_region_check,
    add constraint link_region_check
        check (region in ('content', 'menu', 'breadcrumb', 'contents', 'header', 'footer', 'aside'));

-- Pages of a site that an editor listed: they are read in any case, and want to be found by these names.
create table listed_page (
    site_id integer not null references site on delete cascade,
    address text not null check (octet_length(address) <= 2000),
    names text[] not null default '{}',
    primary key (site_id, address)
);

-- Content blocks of pages as they were read, by what they say in which place: what most pages have is furniture.
create table page_block (
    site_id integer not null,
    page_number integer not null,
    key bigint not null,
    -- Words of the block, when the page's own words are counted in what was crawled.
    words integer check (words >= 0),
    primary key (site_id, page_number, key),
    foreign key (site_id, page_number) references page on delete cascade
);
create table furniture (
    site_id integer not null references site on delete cascade,
    key bigint not null,
    primary key (site_id, key)
);
-- Of links in content blocks only.
alter table link add block_key bigint;

-- Texts of pages are written far more often than they are compared: the quicker compression.
alter table page alter column main_html set compression lz4, alter column source_text set compression lz4;
