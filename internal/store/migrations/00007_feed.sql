-- +goose Up
-- How far each side has received and seen the other's words: marks beside the
-- log, which take no number of it. Receipts of earlier versions stay in their
-- logs; what they told is in the state of their chats.
create table marks (
    chat_id           uuid   primary key references chats on delete cascade,
    visitor_delivered bigint not null default 0,
    visitor_seen      bigint not null default 0,
    team_delivered    bigint not null default 0,
    team_seen         bigint not null default 0
);
insert into marks (chat_id, visitor_delivered, visitor_seen, team_delivered, team_seen)
    select id, coalesce((s -> 'byVisitor' ->> 'delivered')::bigint, 0), coalesce((s -> 'byVisitor' ->> 'seen')::bigint, 0),
        coalesce((s -> 'byTeam' ->> 'delivered')::bigint, 0), coalesce((s -> 'byTeam' ->> 'seen')::bigint, 0)
    from (select id, state::jsonb as s from chats) c;
-- Words that were unseen are counted by runs of numbers: here each is one.
update chats c set state = (c.state::jsonb || jsonb_build_object('recent', jsonb_strip_nulls(jsonb_build_object(
        'visitor', (select jsonb_agg(n) from (select jsonb_array_elements(c.state::jsonb -> 'unseen' -> 'team') as n union all select jsonb_array_elements(c.state::jsonb -> 'unseen' -> 'team') order by 1) v),
        'team', (select jsonb_agg(n) from (select jsonb_array_elements(c.state::jsonb -> 'unseen' -> 'visitor') as n union all select jsonb_array_elements(c.state::jsonb -> 'unseen' -> 'visitor') order by 1) t)))))::text
    where phase <> 'ended' and state::jsonb ? 'unseen';

-- The feed: every event in an order that followers can trust, though
-- transactions commit out of order. A generation begins when the database is
-- restored elsewhere, where the numbers of transactions begin anew.
create table feed (
    generation smallint not null
);
insert into feed (generation) values (1);

alter table events
    add column generation smallint not null default 1,
    add column xid        xid8     not null default '0';
alter table events alter column xid set default pg_current_xact_id();
create index events_feed on events (generation, xid);

-- How far each follower has come.
create table followers (
    name       text     primary key,
    generation smallint not null,
    xid        xid8     not null,
    chat_id    uuid     not null,
    number     bigint   not null
);

-- What an ended chat is found by is made by a follower of the feed.
drop function chat_words(uuid);
