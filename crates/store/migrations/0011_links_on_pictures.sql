-- Links can be put on pictures. Their place is that of the text before them, and they have no words.

alter table taken_link
    -- Hash of the picture as it is written in the page, by which it is known again.
    add picture bytea check (octet_length(picture) = 32),
    drop constraint taken_link_kind_check,
    drop constraint taken_link_check3,
    drop constraint taken_link_check4,
    add constraint taken_link_kind_check check (kind in ('put', 'retarget', 'unlink', 'reword', 'picture')),
    add check ((kind in ('put', 'reword', 'picture')) = (from_href is null)),
    add check ((kind in ('put', 'reword', 'picture')) = (from_address is null)),
    add check ((kind = 'picture') = (picture is not null)),
    -- New ones only: links of older times are what they were.
    add check (kind = 'picture' or words_start < words_end) not valid;
drop index taken_link_open;
create unique index taken_link_open on taken_link (site_id, source_number, target_number)
    where state in ('tray', 'releasing') and kind in ('put', 'reword', 'picture');
create unique index taken_link_picture on taken_link (site_id, source_number, source_hash, words_start, picture)
    where state in ('tray', 'releasing');
