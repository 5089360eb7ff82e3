-- Pages that a reading no longer found. They stay as they were until its end, when it is known how many they are: a
-- reading that would take off too much of a site asks first.

create table reading_leaving (
    reading_id bigint not null references reading on delete cascade,
    page_number integer not null,
    -- The status with which the site answers; nothing for pages that are drafts now, or sent on.
    status smallint,
    -- Where they send on.
    moved_to text check (octet_length(moved_to) <= 2000),
    primary key (reading_id, page_number)
);

alter table reading drop constraint reading_state_check;
alter table reading
    add constraint reading_state_check
        check (state in ('waiting', 'running', 'stopping', 'stopped', 'asking', 'done', 'failed')),
    -- What an editor said to the question.
    add may_take_off boolean not null default false,
    -- Of the failures: what is there, as far as is known, and could not be read.
    add unread integer not null default 0;
