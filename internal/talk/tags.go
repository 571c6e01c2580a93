package talk

import (
	"context"
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/view"
)

// tags are those in use, and when they were counted.
type tags struct {
	list []string
	at   time.Time
}

// tagsFor is how long they are remembered when this server puts none on: half a
// year of chats is counted for them, and they are asked for at each turn to
// another lane.
const tagsFor = time.Minute

// TagsInUse returns the tags in use, the most used first.
func (room *Room) TagsInUse(ctx context.Context) ([]string, error) {
	count := func() (*tags, error) {
		now := room.Now()
		counted, err := room.Tables.CountTags(ctx, now.AddDate(0, -6, 0), 200)
		t := &tags{list: make([]string, len(counted)), at: now}
		for i, c := range counted {
			t.list[i] = c.Tag
		}
		return t, err
	}
	t, err := room.tags.Get(count)
	if err == nil && room.Now().Sub(t.at) > tagsFor {
		room.tags.Forget()
		t, err = room.tags.Get(count)
	}
	if err != nil {
		return nil, err
	}
	return t.list, nil
}

// Tag says what a chat is about, or that it is not.
func (room *Room) Tag(ctx context.Context, o access.Actor, chatID, tag string, on bool) (view.ChatView, error) {
	defer room.tags.Forget()
	return room.Beside(ctx, o, chatID, "", func(s chat.State) ([]chat.Event, error) {
		if on {
			return s.Tag(chat.Operator(o.ID), tag, room.Now())
		}
		return s.Untag(chat.Operator(o.ID), tag, room.Now())
	})
}

// TagCount is a tag with how many chats have it.
type TagCount struct {
	Tag string
	N   int64
}

// CountTags returns the tags of the chats since a time, the most used first.
func (s Tables) CountTags(ctx context.Context, since time.Time, limit int) ([]TagCount, error) {
	var list []TagCount
	err := s.DB.WithContext(ctx).Raw(`select t.tag, count(*) as n from chats, jsonb_array_elements_text(tags) as t(tag)
		where started_at > ? group by t.tag order by n desc, t.tag limit ?`, since, limit).Scan(&list).Error
	return list, err
}
