-- +goose Up

alter table widgets
    add column looks      jsonb   not null default '{}',
    add column languages  jsonb   not null default '[]', -- spoken to visitors; none: all that are shipped
    add column texts      jsonb   not null default '{}', -- by language and key
    add column hours_id   uuid references hours,         -- outside of them it is closed
    add column uninvited  boolean not null default false, -- visitors are not invited
    add column off        boolean not null default false, -- pages may not carry it: never published, or switched off
    add column removed_at timestamptz,
    add column first_seen timestamptz; -- when the first real page carried it

-- What an admin is working on. There is one draft of a widget, which all admins share.
create table widget_drafts (
    widget_id uuid primary key references widgets on delete cascade,
    design    jsonb       not null,
    version   bigint      not null, -- of the draft
    over      bigint      not null, -- the version of the widget that it was begun on
    by_id     uuid references operators,
    at        timestamptz not null
);

-- Every design that was published.
create table widget_versions (
    widget_id uuid        not null references widgets on delete cascade,
    version   bigint      not null,
    design    jsonb       not null,
    by_id     uuid references operators,
    at        timestamptz not null,
    restores  bigint, -- the earlier version that it brought back
    primary key (widget_id, version)
);

-- Every change of the set-up, by whom, and what was there before and after.
create table setting_changes (
    id       bigint generated always as identity primary key,
    at       timestamptz not null,
    by_id    uuid references operators, -- none: a command, or Stoop itself
    kind     text        not null,      -- widget, department, hours …
    thing_id text        not null,
    name     text        not null,      -- of the thing, as it was called
    before   jsonb, -- none: it was made
    after    jsonb  -- none: it was removed
);
create index setting_changes_kind on setting_changes (kind, id desc);
create index setting_changes_by on setting_changes (by_id, id desc);
