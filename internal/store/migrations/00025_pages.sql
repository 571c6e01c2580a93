-- +goose Up
-- Pages of the sites that operators show visitors, kept by the team.

create table saved_pages (
    id         uuid        primary key,
    folder     text        not null,
    title      text        not null,
    url        text        not null,
    version    bigint      not null,
    author_id  uuid        not null references operators,
    created_at timestamptz not null,
    updated_at timestamptz not null
);
create unique index saved_pages_url on saved_pages (url);
