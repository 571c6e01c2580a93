-- +goose Up
-- What answers before a person does: flows that admins write, chats in which one
-- speaks, and the passages of articles from which it answers.

create table flows (
    id            uuid        primary key,
    name          text        not null, -- of what is being worked on
    draft         jsonb       not null, -- which the admins share
    draft_version bigint      not null default 1,
    draft_by_id   uuid        references operators,
    draft_at      timestamptz not null,
    live_version  bigint      not null default 0, -- 0: it was never published
    created_at    timestamptz not null,
    removed_at    timestamptz -- old chats name it
);
create table flow_versions (
    flow_id  uuid        not null references flows,
    version  bigint      not null,
    flow     jsonb       not null,
    by_id    uuid        references operators,
    at       timestamptz not null,
    restores bigint,
    primary key (flow_id, version)
);

alter table widgets add column helper jsonb not null default '{}';

alter table chats
    drop constraint chats_ending_check,
    add constraint chats_ending_check check (ending in ('', 'answered', 'missed', 'message', 'helped')),
    add column helping text not null default '' check (helping in ('', 'alone', 'beside', 'left')),
    add column helper_owes boolean not null default false;
create index chats_helping on chats (helping) where helping in ('alone', 'beside');
-- Who waits in a queue, and was not with the helper yet, may be answered by it.
create index chats_waiting_since on chats (since) where seeking_id is not null;

alter table fact_chats
    add column helper text not null default '',
    add column helper_words integer not null default 0;
-- What is counted of an hour has three more counts at its end: of chats before this, none.
update fact_hours set counts = counts || array[0, 0, 0]::bigint[];

-- Articles in parts, each of which may answer a question.
create table article_passages (
    article_id uuid    not null references articles on delete cascade,
    number     integer not null, -- from 1, in the order of the article
    version    bigint  not null, -- of the article
    language   text    not null,
    public     boolean not null,
    title      text    not null, -- of the article
    heading    text    not null, -- above the passage; empty: none
    text       text    not null, -- without marks
    head_words tsvector generated always as (spoken_words(language, title || ' ' || heading)) stored,
    words      tsvector generated always as (setweight(spoken_words(language, title || ' ' || heading), 'A') || setweight(spoken_words(language, text), 'C')) stored,
    primary key (article_id, number)
);
create index article_passages_words on article_passages using gin (words);
create index article_passages_in on article_passages (language) where public;
