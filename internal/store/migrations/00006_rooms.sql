-- +goose Up
-- Each room's tables are its own. What the floor counts of operators and notes
-- of who has lost their connection stood beside what is set up of them.
create table availability (
    operator_id uuid primary key references operators on delete cascade,
    available   boolean not null default false,
    passes      integer not null default 0, -- offers let by, one after the other
    away_why    text    not null default ''
);
insert into availability (operator_id, available, passes, away_why) select id, available, passes, away_why from operators;

create table absences (
    party_id uuid        primary key,
    since    timestamptz not null
);
insert into absences (party_id, since)
    select id, lost_at from operators where lost_at is not null
    union all select id, lost_at from visitors where lost_at is not null;

create table turns_taken (
    department_id uuid   not null references departments on delete cascade,
    operator_id   uuid   not null references operators on delete cascade,
    turn          bigint not null, -- counts up with each chat handed out: the lowest is next
    primary key (department_id, operator_id)
);
insert into turns_taken (department_id, operator_id, turn) select department_id, operator_id, turn from members where turn > 0;

drop index chats_untold;

alter table operators drop column available, drop column passes, drop column away_why, drop column lost_at;
alter table visitors drop column lost_at;
alter table members drop column turn;
alter table chats drop column told;
