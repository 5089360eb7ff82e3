-- Links that come to pages as they pass.

-- What an editor sets for the edges of a site.
create table edge_setting (
    site_id integer primary key references site on delete cascade,
    -- Whether what is handed over is put into pages as they pass.
    carries boolean not null default false,
    -- Links at the foot of every page: core's FooterLinks.
    footer jsonb not null
);

-- The edges that run, each by the address at which it listens.
create table edge_running (
    site_id integer not null references site on delete cascade,
    address text not null,
    upstream text not null,
    seen_at timestamptz not null default now(),
    primary key (site_id, address)
);
