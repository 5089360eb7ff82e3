-- What is passed for one place, a pair of pages, or a page as a whole; rules of the house; what decisions teach.

alter table passed_opening
    drop constraint passed_opening_pkey,
    add id bigint generated always as identity primary key,
    alter source_number drop not null,
    -- The sentence around the words, white space folded, before and after them: only where one place is passed.
    add before_anchor text not null default '',
    add after_anchor text not null default '',
    -- Hash of sentence and words, by which the place is known again.
    add place bytea check (octet_length(place) = 32),
    add check (place is null or source_number is not null);
-- Without a source for all pages, without a place for all of a pair.
create unique index passed_opening_once on passed_opening (site_id, target_number, source_number, place)
    nulls not distinct;

alter table decision
    drop constraint decision_check,
    add check (kind in ('take', 'drop', 'repair') or target_number is not null),
    add before_anchor text not null default '',
    add after_anchor text not null default '',
    add place bytea check (octet_length(place) = 32);

-- What an opening was worth when it was taken or passed, part by part.
create table lesson (
    id bigint generated always as identity primary key,
    site_id integer not null references site on delete cascade,
    decision_id bigint not null references decision on delete cascade,
    kept boolean not null,
    adds real[] not null check (cardinality(adds) = 5)
);
create index lesson_of_site on lesson (site_id, id);
create index lesson_of_decision on lesson (decision_id);
-- What was undone, dropped or brought back since teaches nothing.
create view lesson_that_counts as
select lesson.id, lesson.site_id, lesson.kept, lesson.adds
from lesson join decision d on d.id = lesson.decision_id
where not d.undone and case when lesson.kept
    then exists (select from taken_link t where t.id = any(d.changes) and t.state <> 'dropped')
    else exists (select from passed_opening p where p.site_id = d.site_id and p.target_number = d.target_number
                     and p.source_number is not distinct from d.source_number
                     and p.place is not distinct from d.place) end;

alter table taken_link
    -- A link on words that the editor chose has no fit.
    alter fit drop not null,
    -- The editor's own wording, which takes the place of a whole sentence and carries a link: before, on and after it.
    add says_before text,
    add says_anchor text check (btrim(says_anchor) <> ''),
    add says_after text,
    drop constraint taken_link_kind_check,
    drop constraint taken_link_check3,
    drop constraint taken_link_check4,
    add constraint taken_link_kind_check check (kind in ('put', 'retarget', 'unlink', 'reword')),
    add check ((kind in ('put', 'reword')) = (from_href is null)),
    add check ((kind in ('put', 'reword')) = (from_address is null)),
    add check ((kind = 'reword') = (says_before is not null and says_anchor is not null and says_after is not null));
drop index taken_link_open;
create unique index taken_link_open on taken_link (site_id, source_number, target_number)
    where state in ('tray', 'releasing') and kind in ('put', 'reword');

alter table site
    add per_sentence integer not null default 2 check (per_sentence between 1 and 20),
    add words_per_link integer not null default 20 check (words_per_link between 1 and 1000),
    add first_words_free integer not null default 0 check (first_words_free between 0 and 10000),
    -- Words that never carry a link.
    add never_words text[] not null default '{}' check (cardinality(never_words) <= 1000),
    -- Categories without openings.
    add left_out text[] not null default '{}' check (cardinality(left_out) <= 200),
    add links_back boolean not null default true;
