-- +goose Up
-- Who wants text messages again gets none that were said before they wanted none: until those can no
-- longer be on their way, it is kept when that was.
alter table channel_stops add column started_at timestamptz;
