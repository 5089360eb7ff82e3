-- Sites that can be read and not written to: what is planned for them is handed over to whoever can.

-- Whether files of a folder may be changed.
alter table site
    add writes boolean not null default true,
    -- How its links are written, found when its folder is read: the form of core's LinkForm.
    add link_form jsonb,
    -- The editing interface that its entry page names.
    add named_micropub text,
    -- Which part of it is read: how addresses begin that are, and that are not.
    add within text[] not null default '{}',
    add without text[] not null default '{}';

alter table release
    -- Whether it is written to the site, or handed over.
    add way text not null default 'written' check (way in ('written', 'handed over'));

alter table taken_link
    drop constraint taken_link_state_check,
    add constraint taken_link_state_check
        check (state in ('tray', 'releasing', 'handed over', 'out', 'dropped', 'taken back')),
    -- What the latest look at the page found of a link that was handed over.
    add sighting text check (sighting in ('there', 'other words', 'not yet', 'sentence gone')),
    add check (sighting is null or state in ('handed over', 'out')),
    add check (state <> 'handed over' or sighting is null or sighting in ('not yet', 'sentence gone'));
alter table taken_link drop constraint taken_link_words;
alter table taken_link add constraint taken_link_words
    exclude using gist (site_id with =, source_number with =, source_hash with =,
                        int4range(words_start, words_end) with &&)
    where (state in ('tray', 'releasing', 'handed over'));
drop index taken_link_open, taken_link_picture;
create unique index taken_link_open on taken_link (site_id, source_number, target_number)
    where state in ('tray', 'releasing', 'handed over') and kind in ('put', 'reword', 'picture');
create unique index taken_link_picture on taken_link (site_id, source_number, source_hash, words_start, picture)
    where state in ('tray', 'releasing', 'handed over');
create index taken_link_handed_over on taken_link (site_id) where state = 'handed over';
-- Pages of sites without an editing interface come with what was crawled as their source: the next reading looks at each
-- again.
update page set etag = null, last_modified = null, crawled_hash = decode(repeat('00', 32), 'hex')
where source_text is null and gone is null
  and exists (select from site where site.id = page.site_id and site.source = 'web' and site.micropub is null);
