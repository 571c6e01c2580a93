-- +goose Up
-- What the search finds of a text: words of any language, without stemming.
-- PostgreSQL would take what stands between angle brackets for markup and leave
-- it out; here everything is text. The cut keeps it below the limit of 1 MB.
-- +goose StatementBegin
create function search_words(text) returns tsvector language sql immutable parallel safe as
    $$ select to_tsvector('simple', left(translate($1, '<>', '  '), 200000)) $$;
-- +goose StatementEnd

create table settings (
    key   text primary key,
    value text not null
);

create table operators (
    id            uuid primary key,
    email         text        not null,
    name          text        not null,
    role          text        not null check (role in ('operator', 'lead', 'admin')),
    password_hash text        not null,
    available     boolean     not null default false,
    created_at    timestamptz not null default now()
);
create unique index operators_email on operators (lower(email));

-- The shape that the session library asks for.
create table sessions (
    token  text primary key,
    data   bytea       not null,
    expiry timestamptz not null
);
create index sessions_expiry on sessions (expiry);

create table widgets (
    id                    uuid primary key,
    key                   text        not null unique,
    name                  text        not null,
    title                 text        not null,
    colour                text        not null default '#9c3f27',
    corner                text        not null default 'right' check (corner in ('left', 'right')),
    sites                 jsonb       not null default '[]', -- origins that may carry the widget
    message_limit         integer     not null default 2000 check (message_limit between 1 and 20000),
    answer_target_seconds integer     not null default 60 check (answer_target_seconds > 0),
    created_at            timestamptz not null default now()
);

create table visitors (
    id         uuid primary key,
    widget_id  uuid        not null references widgets,
    name       text        not null default '',
    email      text        not null default '',
    created_at timestamptz not null default now()
);

-- One continuous stay. The id is made by the page; it grants nothing and
-- cannot be guessed. A visit gets its visitor when the panel is opened.
create table visits (
    id         uuid primary key,
    widget_id  uuid        not null references widgets,
    visitor_id uuid references visitors,
    page_url   text        not null default '',
    page_title text        not null default '',
    page_since timestamptz not null,
    referrer   text        not null default '',
    user_agent text        not null default '',
    language   text        not null default '',
    started_at timestamptz not null,
    seen_at    timestamptz not null,
    gone_at    timestamptz
);
create index visits_visitor on visits (visitor_id, seen_at desc);
create index visits_here on visits (seen_at) where gone_at is null;

-- The projection of a chat's log, written in the statement that appends to it.
create table chats (
    id              uuid primary key,
    widget_id       uuid        not null references widgets,
    visitor_id      uuid        not null references visitors,
    start_client_id text        not null,
    name            text        not null default '',
    email           text        not null default '',
    last            bigint      not null,
    phase           text        not null check (phase in ('waiting', 'active', 'ended')),
    ending          text        not null default '' check (ending in ('', 'answered', 'missed')),
    owner_id        uuid references operators,
    started_at      timestamptz not null,
    taken_at        timestamptz,
    replied_at      timestamptz,
    ended_at        timestamptz,
    last_words      text        not null default '',
    last_words_side text        not null default '',
    last_words_at   timestamptz,
    state           text        not null, -- JSON, read and written whole
    words           tsvector,             -- all words of an ended chat, for the search
    unique (visitor_id, start_client_id)
) with (fillfactor = 80);
create index chats_open on chats (phase) where phase <> 'ended';
create unique index chats_one_open on chats (visitor_id) where phase <> 'ended';
create index chats_started on chats (started_at desc, id desc);
create index chats_words on chats using gin (words);
create index chats_owner on chats (owner_id, started_at desc);

-- Events are only ever added by a statement that moved their chat on, so a
-- foreign key would ask again, for every message, what is known.
create table events (
    chat_id   uuid        not null,
    number    bigint      not null,
    kind      text        not null,
    at        timestamptz not null,
    side      text        not null,
    party_id  uuid        not null,
    client_id text,
    text      text        not null default '',
    up_to     bigint      not null default 0,
    ending    text        not null default '',
    intro     jsonb,
    primary key (chat_id, number)
);
create unique index events_once on events (chat_id, party_id, client_id) where client_id is not null;
