-- +goose Up
-- Messages that are said by themselves in a chat.
alter table widgets add column automatic jsonb not null default '[]';

-- Since when the owner of now holds a chat: they welcome its visitor once.
alter table chats add column owned_at timestamptz;
create index chats_taken_lately on chats (owned_at) where phase = 'active';
