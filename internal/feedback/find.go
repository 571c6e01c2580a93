package feedback

import (
	"context"
	"time"

	"gorm.io/gorm"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/measure"
	"stoop/internal/chatlog"
	"stoop/internal/view"
)

// Find asks for what visitors said of chats that ended in a period.
type Find struct {
	From, To     time.Time // the zero time is no bound; To is not part of it
	DepartmentID string
	OperatorID   string // who held the chat at its end
	Rating       int    // this one alone; 0: all
	WithWords    bool
	ToRead       bool    // low, and not closed by a lead
	Totals       bool    // with what all of the period adds up to
	Before       *Cursor // only what comes after this place in the list
}

// Cursor is a place in the list, newest first.
type Cursor struct {
	RatedAt time.Time
	ID      string
}

// RatedChat is one chat with what its visitor said of it.
type RatedChat struct {
	Chat       view.ChatView `json:"chat"`
	WidgetName string        `json:"widgetName"`
}

// FeedbackSummary is what all feedback of a period adds up to, whatever part of it is listed.
type FeedbackSummary struct {
	Asked    int64            `json:"asked" doc:"Answered chats that ended in the period and whose visitors were asked"`
	Rated    int64            `json:"rated" doc:"Of these, how many said something"`
	Ratings  []int64          `json:"ratings" doc:"How many of each rating, from very poor to very good"`
	Response measure.Interval `json:"response" doc:"Share of those asked who said something"`
	Content  measure.Interval `json:"content" doc:"Share of ratings that are good or very good"`
}

// FeedbackPage is a part of what was found, newest first.
type FeedbackPage struct {
	Said    []RatedChat      `json:"said"`
	ToRead  int64            `json:"toRead" doc:"Low ratings that no lead has closed, of all times"`
	Summary *FeedbackSummary `json:"summary,omitempty" doc:"If it was asked for"`
	Next    *Cursor          `json:"-"`
}

// pageLength is how many are listed at once.
const pageLength = 40

// Find returns what visitors said: of all chats for who leads, of their own for
// operators.
func (room *Room) Find(ctx context.Context, o access.Actor, f Find) (FeedbackPage, error) {
	if !o.May(access.SeeEveryChat) {
		f.OperatorID = o.ID
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return FeedbackPage{}, err
	}
	var chats []chatlog.Chat
	if err := room.Tables.listed(ctx, f).Order("rated_at desc, id desc").Limit(pageLength + 1).Find(&chats).Error; err != nil {
		return FeedbackPage{}, err
	}
	page := FeedbackPage{}
	if len(chats) > pageLength {
		chats = chats[:pageLength]
		last := chats[pageLength-1]
		page.Next = &Cursor{RatedAt: *last.RatedAt, ID: last.ID}
	}
	page.Said = make([]RatedChat, len(chats))
	for i, c := range chats {
		page.Said[i] = RatedChat{Chat: room.View.Chat(c, s), WidgetName: s.Widgets[c.WidgetID].Name}
	}
	if page.ToRead, err = room.Tables.toRead(ctx, f); err != nil || !f.Totals {
		return page, err
	}
	summary, err := room.Tables.summary(ctx, f)
	page.Summary = &summary
	return page, err
}

// of narrows a query to the chats of which something may have been said.
func (f Find) of(query *gorm.DB) *gorm.DB {
	query = query.Where("surveyed")
	if !f.From.IsZero() {
		query = query.Where("ended_at >= ?", f.From)
	}
	if !f.To.IsZero() {
		query = query.Where("ended_at < ?", f.To)
	}
	if f.DepartmentID != "" {
		query = query.Where("department_id = ?", f.DepartmentID)
	}
	if f.OperatorID != "" {
		query = query.Where("owner_id = ?", f.OperatorID)
	}
	return query
}

func (t Tables) listed(ctx context.Context, f Find) *gorm.DB {
	query := f.of(chatlog.On(t.Store).Query(ctx)).Where("rating is not null")
	if f.Rating > 0 {
		query = query.Where("rating = ?", f.Rating)
	}
	if f.WithWords {
		query = query.Where("feedback_words <> ''")
	}
	if f.ToRead {
		query = query.Where("feedback_to_read")
	}
	if f.Before != nil {
		query = query.Where("(rated_at, id) < (?, ?)", f.Before.RatedAt, f.Before.ID)
	}
	return query
}

func (t Tables) summary(ctx context.Context, f Find) (FeedbackSummary, error) {
	s := FeedbackSummary{Ratings: make([]int64, chat.RatingMost)}
	var rows []struct {
		Rating int
		Count  int64
	}
	err := f.of(t.DB.WithContext(ctx).Table("chats")).Select("coalesce(rating, 0) as rating, count(*) as count").Group("rating").Find(&rows).Error
	if err != nil {
		return s, err
	}
	good := int64(0)
	for _, r := range rows {
		s.Asked += r.Count
		if r.Rating < chat.RatingLeast || r.Rating > chat.RatingMost {
			continue
		}
		s.Rated += r.Count
		s.Ratings[r.Rating-1] = r.Count
		if r.Rating >= chat.RatingGood {
			good += r.Count
		}
	}
	s.Response, s.Content = measure.Wilson(s.Rated, s.Asked), measure.Wilson(good, s.Rated)
	return s, nil
}

// toRead counts low ratings that no lead has closed, whenever they came.
func (t Tables) toRead(ctx context.Context, f Find) (n int64, err error) {
	whenever := Find{OperatorID: f.OperatorID, DepartmentID: f.DepartmentID}
	err = whenever.of(t.DB.WithContext(ctx).Table("chats")).Where("feedback_to_read").Count(&n).Error
	return n, err
}
