-- +goose Up
-- Browsers that may be pushed, and the key by which push services know this team.

create table push_sender (
    one     boolean     primary key default true check (one),
    key     bytea       not null, -- of P-256, in PKCS 8
    made_at timestamptz not null
);

create table push_devices (
    id          uuid        primary key,
    operator_id uuid        not null references operators,
    token       text        not null, -- of the session in which it was asked for: without that, nothing is pushed
    endpoint    text        not null unique,
    p256dh      text        not null,
    auth        text        not null,
    agent       text        not null,
    created_at  timestamptz not null,
    pushed_at   timestamptz
);
create index push_devices_operator on push_devices (operator_id);

-- Who can be told on a device counts as somebody who is in, while they want chats.
alter table availability add column reachable boolean not null default false;

-- What somebody was told of, so that they are told once.
create table pushes (
    operator_id uuid        not null references operators,
    about       text        not null,
    at          timestamptz not null,
    primary key (operator_id, about)
);
create index pushes_at on pushes (at);
