-- +goose Up
-- A message moves its chat's row on within its page, without a new entry in any
-- index (heap-only): no index holds what a message changes, and pages have room.
drop index chats_silent;
alter table chats set (fillfactor = 50);

-- What the search finds of an ended chat. Apart from the chat, so that neither
-- lists nor messages carry it along.
create table chat_search (
    chat_id uuid primary key references chats on delete cascade,
    words   tsvector not null
);
insert into chat_search (chat_id, words) select id, words from chats where words is not null;
create index chat_search_words on chat_search using gin (words);
alter table chats drop column words;
