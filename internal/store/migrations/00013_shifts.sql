-- +goose Up

-- Who is to be there when: the roster.
create table shifts (
    id            uuid primary key,
    operator_id   uuid        not null references operators on delete cascade,
    department_id uuid references departments, -- none: all of theirs
    starts_at     timestamptz not null,
    ends_at       timestamptz not null check (ends_at > starts_at)
);
create index shifts_when on shifts (starts_at, ends_at);
create unique index shifts_once on shifts (operator_id, starts_at, ends_at, coalesce(department_id, '00000000-0000-0000-0000-000000000000'));
