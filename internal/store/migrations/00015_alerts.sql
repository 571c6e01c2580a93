-- +goose Up

-- From when on a department calls its leads; 0: never.
alter table departments
    add column alert_waiting integer not null default 5,
    add column alert_wait_seconds integer not null default 180,
    add column alert_nobody_seconds integer not null default 300,
    add column alert_ratings boolean not null default true;

-- What leads were called for.
create table alerts (
    id            uuid primary key,
    kind          text        not null check (kind in ('queue', 'wait', 'nobody', 'rating')),
    department_id uuid        not null references departments,
    chat_id       uuid, -- that was rated
    began_at      timestamptz not null,
    last_at       timestamptz not null, -- when it was seen last
    raised_at     timestamptz,          -- null: it has not lasted long enough
    ended_at      timestamptz,
    worst         integer     not null, -- chats, or seconds
    over          integer     not null, -- the limit then
    taken_by      uuid references operators, -- who said that they see to it
    taken_at      timestamptz
);
create unique index alerts_open on alerts (kind, department_id, coalesce(chat_id, '00000000-0000-0000-0000-000000000000')) where ended_at is null;
create index alerts_raised on alerts (raised_at);
create index alerts_of_chat on alerts (chat_id) where chat_id is not null;
