-- +goose Up
-- What visitors find by themselves before a chat: articles in their language, found in
-- spite of a slip of the fingers, with what readers say of them.

-- Parts of PostgreSQL's own package; whoever owns a database may add them.
create extension if not exists pg_trgm;
create extension if not exists fuzzystrmatch;

alter table widgets add column help jsonb not null default '{}';

-- The rules of a language for its words; without one, words stand as they are.
-- +goose StatementBegin
create function language_rules(text) returns regconfig language sql immutable parallel safe as $$
    select case $1
        when 'en' then 'pg_catalog.english'::regconfig
        when 'de' then 'pg_catalog.german'::regconfig
        when 'da' then 'pg_catalog.danish'::regconfig
        when 'fr' then 'pg_catalog.french'::regconfig
        when 'es' then 'pg_catalog.spanish'::regconfig
        else 'pg_catalog.simple'::regconfig end
$$;
-- Words as they stand, for whoever is still typing one, and their stems. Its body is
-- bound to the functions it calls: a dump is restored without a search path.
create function spoken_words(language text, words text) returns tsvector language sql immutable parallel safe
begin atomic
    select search_words(words) || to_tsvector(language_rules(language), left(translate(words, '<>', '  '), 200000));
end;
-- +goose StatementEnd

alter table articles add column language text not null default 'en' check (language in ('en', 'de', 'da', 'fr', 'es'));
-- What was written before is in the language that the first widget speaks first.
update articles set language = first.language
    from (select languages ->> 0 as language from widgets where removed_at is null order by created_at, id limit 1) first
    where first.language in ('de', 'da', 'fr', 'es');
alter table articles drop column words;
alter table articles add column words tsvector generated always as
    (setweight(spoken_words(language, title), 'A') || setweight(spoken_words(language, folder), 'B') || setweight(spoken_words(language, body), 'C')) stored;
create index articles_words on articles using gin (words);
-- Of very many that are found, those with the words in their titles come first.
alter table articles add column title_words tsvector generated always as (spoken_words(language, title)) stored;
create index articles_title_words on articles using gin (title_words);

-- The words that stand in articles, to know what a mistyped one may mean. A word that
-- stands in none any more does no harm: it finds nothing.
create table article_lexicon (
    language text not null,
    word     text collate "C" not null,
    primary key (language, word)
);
create index article_lexicon_like on article_lexicon using gin (word gin_trgm_ops);

-- +goose StatementBegin
create function article_lexicon_add() returns trigger language plpgsql as $$
begin
    insert into article_lexicon (language, word)
        select new.language, w from unnest(tsvector_to_array(search_words(new.title || ' ' || new.folder || ' ' || new.body))) w
        where length(w) between 4 and 40 and w !~ '[0-9/@.:_-]'
        order by w -- always in one order: two who save at once wait, and do not lock each other out
        on conflict do nothing;
    return null;
end $$;
-- +goose StatementEnd
create trigger article_lexicon_add after insert or update of title, folder, body, language on articles
    for each row execute function article_lexicon_add();
insert into article_lexicon (language, word)
    select distinct a.language, w from articles a, unnest(tsvector_to_array(search_words(a.title || ' ' || a.folder || ' ' || a.body))) w
    where length(w) between 4 and 40 and w !~ '[0-9/@.:_-]'
    on conflict do nothing;

-- Who of the visitors read an article, and whether it helped them. The reader is a
-- number that is made from the visitor's and the article's ids and leads back to neither.
create table article_readers (
    article_id uuid        not null references articles on delete cascade,
    reader     uuid        not null,
    at         timestamptz not null,
    helped     boolean,
    primary key (article_id, reader)
);
create index article_readers_at on article_readers (at);
