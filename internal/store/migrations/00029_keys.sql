-- +goose Up
-- Keys by which other programs read over the HTTP interface. Only what a key hashes to is kept:
-- it is shown once.

create table api_keys (
    id           uuid        primary key,
    name         text        not null,
    hash         bytea       not null unique, -- SHA-256 of the key, which is as random as one
    shown        text        not null,        -- its beginning, by which people know it
    scopes       jsonb       not null,
    created_by   uuid        not null references operators,
    created_at   timestamptz not null,
    expires_at   timestamptz,
    last_used_at timestamptz,
    revoked_at   timestamptz
);
