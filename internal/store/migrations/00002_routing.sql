-- +goose Up
-- When teams are open. Names are for people; a schedule may serve several
-- departments and widgets.
create table hours (
    id         uuid primary key,
    name       text        not null,
    zone       text        not null,
    weekly     jsonb       not null default '[]',
    exceptions jsonb       not null default '[]',
    version    bigint      not null default 1,
    created_at timestamptz not null default now()
);
create unique index hours_name on hours (lower(name));

create table departments (
    id               uuid primary key,
    name             text        not null,
    hours_id         uuid references hours, -- none: open around the clock
    hand_out         text        not null default 'pick' check (hand_out in ('pick', 'offer', 'assign')),
    choice           text        not null default 'fewest' check (choice in ('fewest', 'turn', 'share')),
    last_first       boolean     not null default true,
    languages_first  boolean     not null default false,
    capacity         integer     not null default 3 check (capacity between 1 and 50),
    target_seconds   integer     not null default 60 check (target_seconds > 0),
    offer_seconds    integer     not null default 20 check (offer_seconds between 5 and 600),
    pass_limit       integer     not null default 3 check (pass_limit between 1 and 20),
    hand_on_seconds  integer     not null default 60 check (hand_on_seconds between 10 and 3600),
    wrap_up_seconds  integer     not null default 0 check (wrap_up_seconds between 0 and 3600),
    overflow_to      jsonb       not null default '[]',
    overflow_after   integer     not null default 0,
    overflow_length  integer     not null default 0,
    overflow_closed  boolean     not null default false,
    is_default       boolean     not null default false,
    version          bigint      not null default 1,
    created_at       timestamptz not null default now(),
    removed_at       timestamptz -- transcripts still name it
);
create unique index departments_name on departments (lower(name)) where removed_at is null;
create unique index departments_one_default on departments (is_default) where is_default;

create table members (
    department_id uuid    not null references departments on delete cascade,
    operator_id   uuid    not null references operators on delete cascade,
    backup        boolean not null default false,
    turn          bigint  not null default 0, -- counts up with each chat handed out: the lowest is next
    primary key (department_id, operator_id)
);
create sequence turns;

-- Rules keep ids without foreign keys: what a rule points at may go, and
-- routing then says so on the chat.
create table rules (
    id            uuid primary key,
    position      integer not null,
    name          text    not null,
    is_on         boolean not null default true,
    match         text    not null default 'all' check (match in ('all', 'any')),
    conditions    jsonb   not null default '[]',
    department_id text    not null default '',
    operator_id   text    not null default '',
    account_owner boolean not null default false,
    priority      integer not null default 0
);

-- A person with an email address. What the outside system says of them arrives
-- as a map and is only read by rules.
create table contacts (
    id               uuid primary key,
    email            text        not null,
    name             text        not null default '',
    account_owner_id uuid references operators on delete set null,
    outside          jsonb       not null default '{}',
    created_at       timestamptz not null default now()
);
create unique index contacts_email on contacts (lower(email));

-- Servers that run, and who is connected to each. A node that does not say so
-- every few seconds is dead, and so are its connections.
create table nodes (
    id         uuid primary key,
    started_at timestamptz not null default now(),
    seen_at    timestamptz not null default now()
);
create table connections (
    id       text primary key,
    node_id  uuid not null references nodes on delete cascade,
    side     text not null,
    party_id uuid not null
);
create index connections_party on connections (party_id);

alter table operators
    add column capacity         integer check (capacity between 1 and 50), -- none: the department's
    add column capacity_percent integer     not null default 100 check (capacity_percent between 1 and 100),
    add column languages        jsonb       not null default '[]',
    add column active           boolean     not null default true,
    add column passes           integer     not null default 0, -- offers let by, one after the other
    add column away_why         text        not null default '',
    add column lost_at          timestamptz;

alter table visitors
    add column phone   text        not null default '',
    add column answers jsonb       not null default '{}',
    add column lost_at timestamptz;

alter table widgets
    add column departments   jsonb   not null default '[]', -- ids; none: all
    add column form          jsonb   not null default '[{"name":"name","kind":"text","label":"Your name"},{"name":"email","kind":"email","label":"Email"}]',
    add column reach_by      text    not null default 'email' check (reach_by in ('email', 'phone', 'either')),
    add column gone_seconds  integer not null default 60 check (gone_seconds between 5 and 3600),
    add column greeting        text    not null default '', -- before a chat, while somebody is in
    add column closed_greeting text    not null default '', -- before a message, while nobody is
    add column hide_closed     boolean not null default false, -- the launcher is not shown then
    add column version       bigint  not null default 1;

alter table chats
    drop constraint chats_ending_check,
    add constraint chats_ending_check check (ending in ('', 'answered', 'missed', 'message')),
    add column department_id      uuid references departments,
    add column priority           integer not null default 0,
    add column arrived_at         timestamptz,
    add column since              timestamptz,
    add column message            boolean not null default false,
    add column seeking_id         uuid, -- the department in whose queue it looks for somebody
    add column offered_to         uuid,
    add column handing_to         uuid,
    add column wrap_until         timestamptz,
    add column wrapped_at         timestamptz,
    add column hand_ons           integer not null default 0,
    add column phone              text    not null default '',
    add column answers            jsonb   not null default '{}',
    add column language           text    not null default '';
update chats set arrived_at = started_at, since = started_at;
create index chats_seeking on chats (seeking_id) where seeking_id is not null;
create index chats_load on chats (owner_id) where phase = 'active' or wrap_until is not null;
create index chats_offered on chats (offered_to) where offered_to is not null;
create index chats_handing on chats (handing_to) where handing_to is not null;
create index chats_handled on chats (department_id, ended_at desc) where taken_at is not null and ended_at is not null;
drop index chats_one_open;
create unique index chats_one_open on chats (visitor_id) where phase <> 'ended';

alter table events add column detail jsonb;

-- Every chat needs a department to go to.
insert into departments (id, name, is_default) values (gen_random_uuid(), 'Team', true);
insert into members (department_id, operator_id) select d.id, o.id from departments d, operators o;
update chats set department_id = (select id from departments), seeking_id = case when phase = 'waiting' then (select id from departments) end,
    state = jsonb_set(jsonb_set(jsonb_set(state::jsonb, '{department}', to_jsonb((select id from departments))),
        '{arrived}', state::jsonb -> 'startedAt'), '{since}', state::jsonb -> 'startedAt')::text;
