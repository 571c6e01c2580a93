-- +goose Up

-- Who gets a report by mail, and when next.
create table report_mails (
    operator_id uuid        not null references operators on delete cascade,
    every       text        not null check (every in ('day', 'week', 'month')),
    address     text        not null, -- by what it is narrowed, as behind the ? of the page
    next_at     timestamptz not null,
    primary key (operator_id, every)
);
create index report_mails_due on report_mails (next_at);
