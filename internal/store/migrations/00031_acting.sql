-- +goose Up
-- What rules did, or are to do: one row for each rule, chat and occasion.

create table rule_runs (
    id            uuid        primary key,
    seq           bigint      generated always as identity,
    rule_id       text        not null,
    rule_name     text        not null,
    occasion      text        not null,
    chat_id       uuid        not null references chats on delete cascade,
    since         timestamptz not null, -- of the occasion: another time is another one
    created_at    timestamptz not null,
    claimed_until timestamptz,
    tries         integer     not null default 0,
    done_at       timestamptz,
    held          boolean     not null default false, -- it was for this chat, and did something or could not
    results       jsonb       not null default '[]',
    unique (rule_id, chat_id, since)
);
create index rule_runs_due on rule_runs (seq) where done_at is null;
create index rule_runs_chat on rule_runs (chat_id, seq);
create index rule_runs_log on rule_runs (rule_id, seq desc) where held;
create index rule_runs_done on rule_runs (done_at) where done_at is not null;
