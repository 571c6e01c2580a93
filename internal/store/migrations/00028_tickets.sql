-- +goose Up
-- What remains to be done after a chat. As with chats, the log is the ticket: the row is what
-- lists and the line ask for, written in the same transaction.

create sequence ticket_numbers start 1001;

create table tickets (
    id              uuid        primary key,
    number          bigint      not null unique default nextval('ticket_numbers'),
    opened_by       uuid        not null,            -- somebody of the team, or a visitor
    client_id       text        not null,            -- made by who opened it: doing so again changes nothing
    title           text        not null,
    status          text        not null,
    priority        text        not null,
    department_id   uuid        not null references departments,
    owner_id        uuid        references operators,
    due_at          timestamptz,
    name            text        not null,
    email           text        not null,
    visitor_id      uuid        references visitors on delete set null,
    tags            jsonb       not null,
    opened_at       timestamptz not null,
    updated_at      timestamptz not null,
    first_answer_at timestamptz,
    done_at         timestamptz,
    merged          boolean     not null,
    facts           text        not null,            -- what it is found by: what stands on it …
    said            text        not null,            -- … and what was said in it
    state           jsonb       not null,
    unique (opened_by, client_id)
);
create index tickets_due     on tickets (due_at) where status <> 'done';
create index tickets_updated on tickets (updated_at desc, id desc);
create index tickets_opened  on tickets (opened_at);
create index tickets_visitor on tickets (visitor_id);
create index tickets_email   on tickets (lower(email)) where email <> '';
create index tickets_words   on tickets using gin ((facts || ' ' || said) gin_trgm_ops);

create table ticket_events (
    ticket_id uuid        not null references tickets on delete cascade,
    number    bigint      not null,
    kind      text        not null,
    at        timestamptz not null,
    side      text        not null,
    client_id text        not null,
    in_time   boolean,               -- of answers to somebody who waited
    body      jsonb       not null,
    primary key (ticket_id, number)
);
create unique index ticket_events_client on ticket_events (ticket_id, client_id) where client_id <> '';
create index ticket_events_at on ticket_events (at);

create table ticket_chats (
    ticket_id uuid not null references tickets on delete cascade,
    chat_id   uuid not null references chats on delete cascade,
    primary key (ticket_id, chat_id)
);
create index ticket_chats_chat on ticket_chats (chat_id);

alter table deletions drop constraint deletions_kind_check;
alter table deletions add constraint deletions_kind_check check (kind in ('chats', 'form', 'files', 'visits', 'tickets', 'person'));

-- Searches are kept for tickets, too.
alter table saved_searches add column place text not null default 'transcripts';
