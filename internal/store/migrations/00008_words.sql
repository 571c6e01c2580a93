-- +goose Up
-- What is said is stored as an event alone, and the row of its chat follows in a
-- moment: an event's key, its chat and number, is the compare by which two
-- servers that act on the same chat cannot both win. All servers must know that.

-- Followers of anything but words pass over them in an index of their own.
create index events_acts on events (generation, xid) where kind <> 'said';

-- must_hold refuses what is sent to the database along with it, unless a
-- condition holds.
-- +goose StatementBegin
create function must_hold(holds boolean) returns void language plpgsql as $$
begin
    if holds is not true then
        raise exception 'this does not hold any more' using errcode = 'ST001';
    end if;
end
$$;
-- +goose StatementEnd
