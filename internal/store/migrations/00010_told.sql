-- +goose Up

-- What is told of a visit beside its pages (basket, data, the invitation that stands)
-- may come to any server: of each, the word that was said last holds.
alter table visits add column told jsonb not null default '{}';
-- A rule is tried once in a visit, whichever server does.
create unique index invitations_once on invitations (visit_id, rule_id) where rule_id <> '';
