-- +goose Up

-- How a chat was, in its visitor's words: followed from the events 'ended' (whether they
-- were asked), 'rated' and 'feedback-read'.
alter table chats
	add column surveyed boolean not null default false,
	add column rating smallint,
	add column rated_at timestamptz,
	add column feedback_words text not null default '',
	add column feedback_to_read boolean not null default false;
create index chats_rated on chats (rated_at desc, id desc) where rating is not null;
create index chats_surveyed on chats (ended_at) where surveyed;
create index chats_to_read on chats (rated_at) where feedback_to_read;

-- What visitors of a widget are asked after a chat.
alter table widgets add column survey jsonb not null default '{"on": true}';
