-- +goose Up

-- What reports count and transcripts are filtered by: followed from the logs of ended
-- chats, and the same whenever they are followed anew. Facts outlast what was said:
-- nothing in them names a person.
create table fact_chats (
    chat_id             uuid primary key,
    widget_id           uuid        not null,
    visitor_id          uuid        not null,
    arrived_at          timestamptz not null,
    ended_at            timestamptz not null,
    ending              text        not null,
    missed              text        not null, -- why
    first_department_id uuid,
    department_id       uuid,
    owner_id            uuid,
    operators           uuid[]      not null, -- who held it
    rule                text        not null, -- that sent it, as it was called then
    page                text        not null, -- path
    page_title          text        not null,
    country             text        not null,
    source              text        not null,
    language            text        not null,
    invited             text        not null, -- hand, or the id of the invitation rule
    target_s            integer     not null,
    wait_s              integer, -- all times are in seconds
    in_target           boolean,
    waited_s            integer     not null,
    kept_s              integer,
    first_s             integer,
    later_s             integer,
    replies             integer     not null,
    on_time             integer     not null,
    slowest_s           integer,
    silence_s           integer     not null,
    turns               integer     not null,
    lasted_s            integer     not null,
    active_s            integer     not null,
    wrap_s              integer     not null,
    open_s              integer,
    hand_ons            integer     not null,
    visitor_lines       integer     not null,
    team_lines          integer     not null,
    surveyed            boolean     not null,
    rating              smallint,
    rated_words         boolean     not null,
    tags                text[]      not null,
    outcome             text        not null,
    sale_cents          bigint,
    sale_currency       text        not null,
    gone                boolean     not null default false -- its transcript was deleted; what was counted stays
);
create index fact_chats_arrived on fact_chats (arrived_at desc, chat_id desc);

create table fact_operators (
    chat_id       uuid    not null,
    operator_id   uuid    not null,
    department_id uuid,
    arrived_at    timestamptz not null, -- of the chat
    live          boolean not null, -- and no message, which is held for days and keeps nobody busy
    held          tstzmultirange not null, -- with the work after the end
    active_s      integer not null,
    wrap_s        integer not null,
    lines         integer not null,
    replies       integer not null,
    reply_s       bigint  not null,
    on_time       integer not null,
    first_s       integer,
    got           text    not null,
    gave          text    not null,
    ended         boolean not null,
    guest         boolean not null,
    primary key (chat_id, operator_id)
);
create index fact_operators_arrived on fact_operators (arrived_at);
create index fact_operators_held on fact_operators using gist (held);

-- What came and was under way in each quarter of an hour, for planning.
create table fact_quarters (
    department_id uuid        not null,
    at            timestamptz not null,
    arrivals      integer     not null, -- live chats
    missed        integer     not null, -- of these
    messages      integer     not null,
    waiting_s     bigint      not null, -- of all who waited, together
    held_s        bigint      not null, -- of all chats held, together
    primary key (department_id, at)
);
create table fact_busy (
    operator_id uuid        not null,
    at          timestamptz not null,
    chat_s      bigint      not null, -- of all chats held, together
    busy_s      integer     not null, -- in which at least one was held
    primary key (operator_id, at)
);
-- What chats of an hour (of UTC) add up to, so that a report of years need not look at each
-- chat: by the department at their end and the widget, with all times, in order.
create table fact_hours (
    at            timestamptz not null,
    department_id uuid        not null, -- zeros: none
    widget_id     uuid        not null,
    counts        bigint[]    not null, -- in the order of facts.Counted
    waits         integer[]   not null,
    firsts        integer[]   not null,
    laters        integer[]   not null,
    primary key (at, department_id, widget_id)
);
create index fact_quarters_at on fact_quarters (at);
create index fact_busy_at on fact_busy (at);

-- Words are cut and folded by core/search now, and notes for the team are found too.
truncate chat_search;
delete from followers where name = 'transcripts';

-- What somebody looks for again and again in the transcripts.
create table saved_searches (
    id          uuid primary key,
    operator_id uuid        not null references operators on delete cascade,
    name        text        not null,
    address     text        not null, -- as it stands behind the ? of the page
    shared      boolean     not null default false,
    created_at  timestamptz not null
);
create index saved_searches_of on saved_searches (operator_id);

-- Files made of many transcripts.
create table exports (
    id          uuid primary key,
    operator_id uuid        not null references operators on delete cascade,
    format      text        not null,
    asked       jsonb       not null, -- the search
    state       text        not null check (state in ('waiting', 'working', 'done', 'cancelled', 'failed')),
    total       bigint      not null default 0,
    done        bigint      not null default 0,
    hash        text        not null default '', -- of the content, when it is done
    size        bigint      not null default 0,
    words       text        not null default '', -- what went wrong
    created_at  timestamptz not null,
    finished_at timestamptz,
    beat_at     timestamptz not null -- when whoever makes it was heard of last
);
create index exports_of on exports (operator_id, created_at desc);

-- How far something is that takes longer than a moment.
create table progress (
    name  text primary key,
    done  bigint      not null,
    total bigint      not null,
    at    timestamptz not null default now() -- when it was heard of last
);
