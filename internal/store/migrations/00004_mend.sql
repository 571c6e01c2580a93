-- +goose Up
-- Two admins who edit the same person must not overwrite each other unseen.
alter table operators add column version bigint not null default 1;
