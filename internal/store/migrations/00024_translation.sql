-- +goose Up
-- Chats that are translated both ways.

alter table chats add column translation_owed boolean not null default false; -- words of the visitor wait for it
create index chats_translation_owed on chats (id) where translation_owed;
