-- Auto-linking rules: whenever these words stand in a page, they lead there.
create table link_rule (
    site_id integer not null references site on delete cascade,
    -- An older rule has a smaller one.
    number integer not null check (number > 0),
    phrases text[] not null check (cardinality(phrases) between 1 and 200),
    -- Whether the phrases are regular expressions.
    expressions boolean not null,
    -- A target as taken_link has it.
    target_kind text not null check (target_kind in ('page', 'place', 'planned page', 'outside', 'mail', 'phone', 'file')),
    target_number integer,
    target_place text check (octet_length(target_place) <= 2000),
    target_address text check (octet_length(target_address) <= 8000),
    target_planned bigint references planned_page on delete cascade,
    priority integer not null,
    -- How well the phrases name the target, 0 to 100.
    fit real not null,
    -- Where, how and how often: the parts of core's Rule.
    options jsonb not null,
    is_on boolean not null,
    -- What becomes of its places on new and changed pages.
    handling text not null check (handling in ('screened', 'at once')),
    made_at timestamptz not null default now(),
    -- A rule that was removed can be brought back.
    removed_at timestamptz,
    primary key (site_id, number),
    foreign key (site_id, target_number) references page (site_id, number)
);

-- Places where a link of a rule was passed: core's Spot.
create table rule_exception (
    site_id integer not null,
    rule_number integer not null,
    page_number integer not null,
    spot bigint not null,
    primary key (site_id, rule_number, page_number, spot),
    foreign key (site_id, rule_number) references link_rule on delete cascade
);

-- What holds for all rules of a site together, where an editor set it: core's RuleLimits.
alter table site add rule_limits jsonb;

-- The rule that makes a link, and where else than in running text it does so.
alter table taken_link
    add rule_number integer,
    add rule_in_headings boolean not null default false,
    add rule_in_code boolean not null default false,
    add foreign key (site_id, rule_number) references link_rule on delete no action;
create index on taken_link (site_id, rule_number) where rule_number is not null;

-- Links on the site that rules made: the latest that became of each place, unless it was taken off.
create view rule_link as
select * from taken_link
where rule_number is not null and state = 'out' and kind in ('put', 'retarget')
    and not exists (
        select from taken_link as later
        where later.site_id = taken_link.site_id and later.rule_number = taken_link.rule_number
            and later.source_number = taken_link.source_number and later.id > taken_link.id
            and later.anchor = taken_link.anchor and later.before_anchor = taken_link.before_anchor
            and later.after_anchor = taken_link.after_anchor
            and later.state in ('tray', 'releasing', 'handed over', 'out')
    );

alter table journal drop constraint journal_kind_check;
alter table journal add check (kind in ('pages', 'redirects', 'taken', 'passed', 'reading', 'release', 'site', 'rules'));
