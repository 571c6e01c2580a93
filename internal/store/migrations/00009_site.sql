-- +goose Up

-- A visit is what its pages told, held in memory by the server that they talk to and
-- written here in batches; other servers read what was stored since they looked last.
-- Its id is the server's now, and who it is of is known from its first page.
alter table visits
    add column stay      jsonb not null default '{}', -- as core/visit folds it: pages with times, tabs, source
    add column place     jsonb not null default '{}', -- by the address: country, town, where, time zone
    add column basket    jsonb,
    add column invited   jsonb,                       -- the invitation that stands, if one does
    add column data      jsonb not null default '{}', -- what the site said of the visitor
    add column node      uuid,                        -- the server that stored it last
    add column stored_at timestamptz not null default now();
drop index visits_here;
create index visits_stored on visits (stored_at);

alter table widgets
    add column show_on jsonb not null default '[]', -- patterns of pages; none: everywhere
    add column hide_on jsonb not null default '[]';

-- Words to visitors who have not written: by hand, or by a rule. Those who matched a
-- rule and were not invited, to compare with, are rows as well.
create table invitations (
    id            uuid primary key,
    widget_id     uuid        not null references widgets,
    visitor_id    uuid        not null references visitors on delete cascade,
    visit_id      uuid        not null,
    rule_id       text        not null default '', -- empty: by hand
    operator_id   uuid references operators,       -- in whose name
    department_id uuid references departments,
    text          text        not null,
    second        boolean     not null default false, -- the rule's other text
    invited       boolean     not null default true,
    page_url      text        not null default '',
    created_at    timestamptz not null,
    shown_at      timestamptz,
    accepted_at   timestamptz,
    dismissed_at  timestamptz,
    chat_id       uuid -- that came of it
);
create index invitations_visitor on invitations (visitor_id, created_at desc);
create index invitations_rule on invitations (rule_id, created_at);
create index invitations_chat on invitations (chat_id) where chat_id is not null;

-- Who a site vouches for is known by the site's own id.
alter table contacts
    add column site_id text,
    add column seen_at timestamptz, -- when one of their browsers was last on a site, or wrote
    add column search  text generated always as (lower(name || ' ' || coalesce(email, '') || ' ' || phone || ' ' || company)) stored;
create unique index contacts_site on contacts (site_id) where site_id is not null;
create index contacts_name on contacts (lower(name), id);
-- A visitor's email is proven when they came back by a link that was mailed to it, or
-- the site vouches for it; only then it says who they are.
alter table visitors add column email_proven boolean not null default false;
