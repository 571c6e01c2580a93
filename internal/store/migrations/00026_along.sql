-- +goose Up
-- What was seen while somebody looked along, where an admin wants it kept: part of its chat,
-- and gone with it.

create table along_parts (
    chat_id uuid        not null references chats on delete cascade,
    number  bigint      not null, -- of the event that asked
    part    integer     not null, -- 1, 2, 3 … in the order in which they came
    at      timestamptz not null,
    data    text        not null, -- as the browser packed it
    primary key (chat_id, number, part)
);
