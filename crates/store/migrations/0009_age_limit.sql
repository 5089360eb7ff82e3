-- Pages that were published longer ago are not led to by openings.
alter table site
    add oldest_months integer check (oldest_months between 1 and 1200);
