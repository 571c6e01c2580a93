-- +goose Up

alter table operators
    add column shown_name     text    not null default '', -- to visitors; empty for the name
    add column welcome        text    not null default '', -- said to a visitor whose chat they take
    add column photo_version  bigint  not null default 0,  -- 0: none
    add column totp_secret    bytea,                       -- sealed; none: no second factor
    add column totp_pending   bytea,                       -- sealed; shown, and not confirmed yet
    add column totp_step      bigint  not null default 0;  -- the last one that was used: a code works once

-- Photos of the team, for visitors and colleagues: square JPEGs.
create table operator_photos (
    operator_id uuid primary key references operators on delete cascade,
    jpeg        bytea not null
);

-- Codes that stand in for the second factor, each once. They are long and random, so a
-- plain hash keeps them.
create table recovery_codes (
    operator_id uuid not null references operators on delete cascade,
    hash        text not null,
    used_at     timestamptz,
    primary key (operator_id, hash)
);

-- Invitations into the team. Who was invited is in it, and cannot log in before they
-- accepted.
create table team_invitations (
    hash        text primary key,
    operator_id uuid        not null references operators on delete cascade,
    email       text        not null, -- to which it was sent: of another it is none
    by_id       uuid references operators,
    created_at  timestamptz not null,
    expires_at  timestamptz not null,
    used_at     timestamptz
);
create index team_invitations_operator on team_invitations (operator_id);

-- Where somebody is logged in, beside the sessions themselves.
create table operator_sessions (
    token       text primary key, -- as the sessions have it: a hash
    operator_id uuid        not null references operators on delete cascade,
    began_at    timestamptz not null,
    address     text        not null,
    agent       text        not null
);
create index operator_sessions_operator on operator_sessions (operator_id);
