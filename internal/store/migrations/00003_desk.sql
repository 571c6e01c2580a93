-- +goose Up
-- What an operator's Desk needs: files, canned responses, articles, team talk,
-- contacts, bans, and what a team puts down beside a chat.

alter table chats
    add column tags          jsonb   not null default '[]',
    add column summary       text    not null default '',
    add column outcome       text    not null default '',
    add column sale_cents    bigint, -- none: no sale
    add column sale_currency text    not null default '',
    add column needs_outcome boolean not null default false,
    add column unread        boolean not null default false,
    add column calling_id    uuid, -- the department that is asked for help
    add column told          boolean not null default false; -- of a message: the team, by mail
create index chats_untold on chats (id) where message and phase = 'waiting' and not told;
create index chats_calling on chats (calling_id) where calling_id is not null;
create index chats_owed on chats (owner_id) where needs_outcome;
create index chats_visitor on chats (visitor_id, started_at desc);
create index chats_silent on chats (last_words_at) where phase = 'active' and last_words_side = 'team';

-- The words of a chat that its search finds: as corrected, without what was
-- withdrawn. Files are found by their names.
-- +goose StatementBegin
create function chat_words(chat uuid) returns text language sql stable as $$
    select coalesce(string_agg(
        case when e.kind = 'shared' then e.detail -> 'file' ->> 'name' else coalesce(
            (select c.text from events c where c.chat_id = e.chat_id and c.kind = 'corrected' and c.up_to = e.number order by c.number desc limit 1),
            e.text) end, ' ' order by e.number), '')
    from events e
    where e.chat_id = chat and e.kind in ('started', 'said', 'kept', 'shared', 'named')
      and not exists (select 1 from events w where w.chat_id = e.chat_id and w.kind = 'withdrawn' and w.up_to = e.number)
$$;
-- +goose StatementEnd
create index events_changed on events (chat_id, up_to) where kind in ('corrected', 'withdrawn');

alter table departments
    add column wrap_up_required boolean not null default false, -- an outcome, before a chat is put away
    add column silent_remind    integer not null default 0 check (silent_remind between 0 and 86400), -- seconds; 0: never
    add column silent_end       integer not null default 120 check (silent_end between 10 and 86400);

alter table widgets
    add column drafts_seen   boolean not null default true, -- the team sees what is being typed; the visitor is told
    add column visitor_files boolean not null default true; -- visitors may send files

alter table operators add column preferences jsonb not null default '{}';

alter table visits add column address text not null default '';
alter table visitors add column address text not null default '';

-- Contacts without an email are known by their visitors only.
alter table contacts
    alter column email drop not null,
    add column phone   text   not null default '',
    add column company text   not null default '',
    add column fields  jsonb  not null default '{}',
    add column version bigint not null default 1;
alter table visitors add column contact_id uuid references contacts on delete set null;
create index visitors_contact on visitors (contact_id) where contact_id is not null;
create index visitors_email on visitors (lower(email)) where email <> '';
create table contact_notes (
    id         uuid primary key,
    contact_id uuid        not null references contacts on delete cascade,
    by_id      uuid        not null references operators,
    text       text        not null,
    created_at timestamptz not null
);
create index contact_notes_of on contact_notes (contact_id, created_at desc);

-- A file's content lies under its hash, elsewhere; several rows may share it.
create table files (
    id         uuid primary key,
    hash       text        not null,
    name       text        not null,
    type       text        not null,
    thumb_hash text        not null default '', -- of the small picture, if there is one
    size       bigint      not null,
    width      integer     not null default 0,
    height     integer     not null default 0,
    voice      boolean     not null default false,
    chat_id    uuid references chats on delete cascade, -- none: of a canned response
    number     bigint      not null default 0,          -- of the event that shared it
    side       text        not null,
    party_id   uuid        not null,
    created_at timestamptz not null,
    gone_at    timestamptz -- withdrawn, or refused by the visitor
);
create index files_chat on files (chat_id);
create index files_hash on files (hash);

create table canned_responses (
    id         uuid primary key,
    scope      text        not null check (scope in ('own', 'department', 'common')),
    owner_id   uuid, -- an operator's or a department's, by scope
    shortcut   text        not null,
    text       text        not null,
    folder     text        not null default '',
    language   text        not null default '',
    file_ids   jsonb       not null default '[]',
    version    bigint      not null default 1,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now()
);
create unique index canned_shortcut on canned_responses
    (scope, coalesce(owner_id, '00000000-0000-0000-0000-000000000000'), lower(shortcut), lower(language));
create table canned_uses (
    response_id uuid        not null references canned_responses on delete cascade,
    operator_id uuid        not null references operators on delete cascade,
    uses        bigint      not null default 0,
    used_at     timestamptz not null,
    primary key (response_id, operator_id)
);

create table articles (
    id         uuid primary key,
    folder     text        not null default '',
    title      text        not null,
    body       text        not null, -- Markdown
    audience   text        not null default 'team' check (audience in ('team', 'all')),
    author_id  uuid        not null references operators,
    version    bigint      not null default 1,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now(),
    words      tsvector generated always as
        (setweight(search_words(title), 'A') || setweight(search_words(folder), 'B') || setweight(search_words(body), 'C')) stored
);
create index articles_words on articles using gin (words);

-- Team talk is kept apart from visitors' chats: nothing joins the two.
create table talk_rooms (
    id         uuid primary key,
    name       text        not null default '', -- empty: two people
    pair       text unique,                     -- both ids of two people, so that there is one room for them
    everybody  boolean     not null default false,
    created_at timestamptz not null default now()
);
create table talk_members (
    room_id     uuid   not null references talk_rooms on delete cascade,
    operator_id uuid   not null references operators on delete cascade,
    seen        bigint not null default 0, -- id of the last message read
    primary key (room_id, operator_id)
);
create index talk_members_of on talk_members (operator_id);
create table talk_messages (
    id        bigint generated always as identity primary key,
    room_id   uuid        not null references talk_rooms on delete cascade,
    by_id     uuid        not null references operators,
    client_id text        not null,
    text      text        not null,
    at        timestamptz not null,
    unique (room_id, by_id, client_id)
);
create index talk_messages_room on talk_messages (room_id, id desc);

create table bans (
    id         uuid primary key,
    visitor_id uuid references visitors on delete cascade,
    network    cidr,
    name       text        not null default '', -- of the visitor, as shown then
    reason     text        not null,
    by_id      uuid        not null references operators,
    created_at timestamptz not null default now(),
    until      timestamptz, -- none: until it is lifted
    lifted_at  timestamptz,
    check ((visitor_id is null) <> (network is null))
);
create index bans_visitor on bans (visitor_id) where lifted_at is null;
