-- +goose Up

-- Transcripts that were deleted: a search says how many it would have found.
create index fact_chats_gone on fact_chats (arrived_at) where gone;
