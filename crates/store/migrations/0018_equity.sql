-- How link equity is counted: what links are worth by where they stand, and how likely a reader is to follow one.
alter table site
    add equity_content double precision not null default 1,
    add equity_menu double precision not null default 0.3,
    add equity_footer double precision not null default 0.1,
    add equity_damping double precision not null default 0.85;
