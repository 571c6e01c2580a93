-- +goose Up
-- Other systems that are told what happens, and what each was or is to be told.

create table webhooks (
    id            uuid        primary key,
    name          text        not null,
    url           text        not null,
    kinds         jsonb       not null, -- of events; none: all
    departments   jsonb       not null, -- none: all
    secret        text        not null,
    former_secret text        not null default '', -- still signed with, until
    former_until  timestamptz,
    off           boolean     not null default false,
    fails         integer     not null default 0, -- in a row
    failing_since timestamptz,
    paused_at     timestamptz, -- it was let alone
    dropped       bigint      not null default 0, -- that were too many to keep
    version       bigint      not null,
    created_at    timestamptz not null
);

create table webhook_deliveries (
    id         uuid        primary key, -- by which a receiver knows doubles
    seq        bigint      generated always as identity,
    webhook_id uuid        not null references webhooks on delete cascade,
    chat_id    uuid        references chats on delete cascade, -- null: a test
    number     bigint      not null default 0, -- of the event
    kind       text        not null,
    body       text        not null default '', -- made when it is sent first
    created_at timestamptz not null,
    tries      integer     not null default 0,
    next_at    timestamptz not null,
    done_at    timestamptz,
    failed     boolean     not null default false, -- given up
    status     integer     not null default 0, -- of the last answer
    answer     text        not null default '' -- its beginning, or what went wrong
);
create index webhook_deliveries_due on webhook_deliveries (next_at) where done_at is null;
create index webhook_deliveries_order on webhook_deliveries (webhook_id, chat_id, seq) where done_at is null;
create index webhook_deliveries_log on webhook_deliveries (webhook_id, seq desc);
create index webhook_deliveries_chat on webhook_deliveries (chat_id);
