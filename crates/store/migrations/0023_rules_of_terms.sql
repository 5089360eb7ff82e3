-- A rule may stand for all terms: then it has no phrases and no target of its own, and its options say for which terms.
alter table link_rule alter target_kind drop not null;
alter table link_rule drop constraint link_rule_phrases_check;
alter table link_rule add check (cardinality(phrases) <= 200 and (cardinality(phrases) = 0) = (target_kind is null));

-- Links that name a term of their page.
create index link_of_terms on link (site_id) where is_tag;
