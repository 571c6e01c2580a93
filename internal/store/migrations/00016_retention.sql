-- +goose Up

-- What is kept for how long; nothing is deleted until an admin says so. How long visits are
-- kept was said beside the sites.
insert into settings (key, value)
    select 'retention', jsonb_build_object('version', '', 'visits', coalesce((value::jsonb ->> 'keepDays')::int, 90))::text from settings where key = 'site';

-- Form data of a chat can go before its words do.
alter table chats add column form_gone boolean not null default false;
create index chats_ended on chats (ended_at) where phase = 'ended';
create index chats_with_form on chats (ended_at) where phase = 'ended' and not form_gone;
create index files_kept on files (created_at) where gone_at is null and chat_id is not null;

-- What was deleted because its time was over, or because somebody was to be forgotten.
create table deletions (
    id    bigint generated always as identity primary key,
    kind  text        not null check (kind in ('chats', 'form', 'files', 'visits', 'person')),
    at    timestamptz not null,
    count bigint      not null,
    by_id uuid references operators -- who forgot a person; null: by itself
);
create index deletions_at on deletions (at desc);
