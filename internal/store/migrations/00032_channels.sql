-- +goose Up
-- Ways by which people write to the team beside the site.

-- By which way a chat goes on now; empty: on the site.
alter table chats add column over text not null default '';
create index chats_over on chats (id) where over <> '' and phase = 'active';

-- Who writes from an address to a line, and that they agreed to be written to there.
create table channel_people (
    line_id    text        not null,
    address    text        not null, -- a number in E.164, an email in small letters
    visitor_id uuid        not null references visitors on delete cascade,
    agreed_at  timestamptz not null,
    agreed_how text        not null, -- wrote: they wrote there first; code: by a code that the chat showed them
    primary key (line_id, address)
);
create index channel_people_visitor on channel_people (visitor_id);

-- Who wants no more text messages, by a digest of their number, which outlives what is known of them.
create table channel_stops (
    line_id    text        not null,
    digest     text        not null,
    stopped_at timestamptz not null,
    primary key (line_id, digest)
);

-- By sending it from a telephone, a visitor goes on there with their chat.
create table channel_codes (
    code       text        primary key,
    chat_id    uuid        not null unique references chats on delete cascade,
    line_id    text        not null,
    made_at    timestamptz not null
);

-- What came in: a gateway that was not sure sends again.
create table channel_in (
    line_id text        not null,
    id      text        not null,
    at      timestamptz not null,
    primary key (line_id, id)
);
create index channel_in_at on channel_in (at);

-- What is to go out, one after the other for each address.
create table channel_out (
    id         uuid        primary key,
    seq        bigint      generated always as identity,
    kind       text        not null,
    line_id    text        not null,
    address    text        not null,
    chat_id    uuid        references chats on delete cascade,
    number     bigint      not null default 0, -- of the event that says it; 0: words alone
    words      text        not null default '',
    created_at timestamptz not null,
    next_at    timestamptz not null,
    tries      integer     not null default 0,
    done_at    timestamptz,
    failed     boolean     not null default false,
    why        text        not null default ''
);
create unique index channel_out_event on channel_out (chat_id, number) where number > 0;
create index channel_out_due on channel_out (next_at, seq) where done_at is null;
create index channel_out_address on channel_out (line_id, address, seq) where done_at is null;
create index channel_out_done on channel_out (done_at) where done_at is not null;

-- A contact is found by the number from which they write.
create index contacts_number on contacts (regexp_replace(phone, '[^0-9+]', '', 'g')) where phone <> '';
