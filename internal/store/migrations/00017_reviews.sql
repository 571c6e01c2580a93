-- +goose Up

-- Chats that a lead drew to read them, and what they say of them.
create table review_draws (
    id         uuid primary key,
    by_id      uuid        not null references operators,
    name       text        not null,
    address    text        not null, -- of which chats was drawn, as behind the ? of the transcripts
    spread     text        not null check (spread in ('operator', 'rating', 'length', 'outcome')),
    seed       text        not null, -- the same one draws the same chats
    size       integer     not null,
    candidates integer     not null, -- chats that could have been drawn
    created_at timestamptz not null
);
create index review_draws_created on review_draws (created_at desc);

create table reviews (
    id          uuid primary key,
    draw_id     uuid references review_draws on delete cascade,
    position    integer     not null,
    chat_id     uuid        not null references chats on delete cascade,
    operator_id uuid        not null references operators, -- who held it at its end
    scores      jsonb       not null default '[]',
    words       text        not null default '',
    by_id       uuid references operators, -- who read it
    version     bigint      not null default 1,
    sent_at     timestamptz, -- when its operator was told
    seen_at     timestamptz, -- when they read it
    answer      text        not null default '',
    unique (draw_id, chat_id)
);
create index reviews_operator on reviews (operator_id, sent_at desc) where sent_at is not null;
create index reviews_chat on reviews (chat_id);
