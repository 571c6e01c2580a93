package reviews

import (
	"cmp"
	"context"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/review"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Scored is one point of the form as it stood then, with what was said of it.
type Scored struct {
	Point string       `json:"point" maxLength:"120"`
	Score review.Score `json:"score" enum:"yes,partly,no,none"`
}

// row is a review as it is stored.
type row struct {
	ID         string
	DrawID     *string
	Position   int
	ChatID     string
	OperatorID string
	Scores     []Scored `gorm:"serializer:json"`
	Words      string
	ByID       *string
	Version    int64
	SentAt     *time.Time
	SeenAt     *time.Time
	Answer     string
}

// TableName names the table to GORM.
func (row) TableName() string { return "reviews" }

// Review is a chat that was drawn, with what a lead says of it.
type Review struct {
	ID           string        `json:"id"`
	Chat         view.ChatView `json:"chat"`
	OperatorID   string        `json:"operatorId"`
	OperatorName string        `json:"operatorName"`
	Scores       []Scored      `json:"scores"`
	Points       float64       `json:"points" doc:"A yes is one, a partly a half"`
	Of           int           `json:"of" doc:"Points that apply"`
	Words        string        `json:"words"`
	By           string        `json:"by,omitempty" doc:"Who read it"`
	Version      int64         `json:"version"`
	SentAt       *time.Time    `json:"sentAt,omitempty" doc:"When its operator was told"`
	SeenAt       *time.Time    `json:"seenAt,omitempty" doc:"When they read it"`
	Answer       string        `json:"answer,omitempty" doc:"Theirs"`
}

// ReviewSaved is what a lead says of a chat.
type ReviewSaved struct {
	Version int64    `json:"version" doc:"As it was read"`
	Scores  []Scored `json:"scores" maxItems:"20"`
	Words   string   `json:"words" maxLength:"5000" doc:"To the operator"`
	Send    bool     `json:"send" doc:"The operator is told"`
}

const wordsMost = 4000

// shown is how many reviews are listed at once.
const shown = 300

// OfDraw returns the chats of a draw in their order. A lead who held one that a colleague
// drew does not see what is being written of it: they read it when it is sent to them.
func (room *Room) OfDraw(ctx context.Context, o access.Actor, drawID string) ([]Review, error) {
	if err := mustReview(o); err != nil {
		return nil, err
	}
	return room.find(ctx, room.Tables.DB.WithContext(ctx).Where("draw_id = ? and operator_id <> ?", drawID, o.ID).Order("position"))
}

// Mine returns what leads said of somebody's own chats, the latest first.
func (room *Room) Mine(ctx context.Context, o access.Actor) ([]Review, error) {
	return room.find(ctx, room.Tables.DB.WithContext(ctx).Where("operator_id = ? and sent_at is not null", o.ID).Order("sent_at desc"))
}

func (room *Room) find(ctx context.Context, query *gorm.DB) ([]Review, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, err
	}
	var rows []row
	if err := query.Limit(shown).Find(&rows).Error; err != nil {
		return nil, err
	}
	ids := make([]string, len(rows))
	for i, r := range rows {
		ids[i] = r.ChatID
	}
	chats, err := room.Chats.Chats(ctx, ids)
	if err != nil {
		return nil, err
	}
	list := make([]Review, 0, len(rows))
	for _, r := range rows {
		at := slices.IndexFunc(chats, func(c chatlog.Chat) bool { return c.ID == r.ChatID })
		if at >= 0 {
			list = append(list, reviewOf(r, room.View.Chat(chats[at], s), s))
		}
	}
	return list, nil
}

func reviewOf(r row, c view.ChatView, s *settings.Settings) Review {
	v := Review{
		ID: r.ID, Chat: c, OperatorID: r.OperatorID, OperatorName: s.Operators[r.OperatorID].Name, Scores: r.Scores, Words: r.Words, Version: r.Version,
		SentAt: r.SentAt, SeenAt: r.SeenAt, Answer: r.Answer,
	}
	if v.Scores == nil {
		v.Scores = []Scored{}
	}
	if r.ByID != nil {
		v.By = s.Operators[*r.ByID].Name
	}
	v.Points, v.Of = review.Total(scoresOf(r.Scores))
	return v
}

func scoresOf(scored []Scored) []review.Score {
	list := make([]review.Score, len(scored))
	for i, s := range scored {
		list[i] = s.Score
	}
	return list
}

// Save keeps what a lead says of a chat, and tells its operator if that is wanted.
func (room *Room) Save(ctx context.Context, o access.Actor, id string, in ReviewSaved) (Review, error) {
	if err := mustReview(o); err != nil {
		return Review{}, err
	}
	words, err := chat.CleanWords(in.Words, wordsMost)
	if err != nil && in.Words != "" {
		return Review{}, err
	}
	if in.Send && words == "" && len(in.Scores) == 0 {
		return Review{}, form.Refuse([]form.Wrong{{Field: "words", Words: "Score a point or write something first."}})
	}
	var r row
	err = room.Tables.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("id = ?", id).Take(&r).Error; err != nil {
			return store.NotFound(err)
		}
		if r.OperatorID == o.ID { // a colleague drew it: nobody reviews their own chats
			return access.ErrNotAllowed
		}
		if r.Version != in.Version {
			return store.ErrChanged
		}
		r.Scores, r.Words, r.ByID, r.Version = append([]Scored{}, in.Scores...), words, &o.ID, r.Version+1
		if in.Send {
			now := room.Now()
			r.SentAt, r.SeenAt = &now, nil
		}
		return tx.Save(&r).Error
	})
	if err != nil {
		return Review{}, err
	}
	if in.Send {
		room.Live.ToOperator(r.OperatorID, ReviewsMoved{Type: "reviews"})
	}
	return room.one(ctx, r)
}

func (room *Room) one(ctx context.Context, r row) (Review, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return Review{}, err
	}
	c, err := room.Chats.Chat(ctx, r.ChatID)
	if err != nil {
		return Review{}, err
	}
	return reviewOf(r, room.View.Chat(c, s), s), nil
}

// Answer notes that an operator has read what was said of a chat of theirs, with what they
// say to it, or nothing; who reviewed it is told.
func (room *Room) Answer(ctx context.Context, o access.Actor, id, answer string) error {
	answer, err := chat.CleanWords(answer, wordsMost)
	if err != nil && answer != "" {
		return err
	}
	var by []string
	err = room.Tables.DB.WithContext(ctx).Raw(`update reviews set seen_at = coalesce(seen_at, ?), answer = case when ? = '' then answer else ? end
		where id = ? and operator_id = ? and sent_at is not null returning by_id::text`, room.Now(), answer, answer, id, o.ID).Scan(&by).Error
	if err != nil {
		return err
	}
	if len(by) == 0 {
		return store.ErrNotFound
	}
	room.Live.ToOperator(by[0], ReviewsMoved{Type: "reviews"})
	return nil
}

// Result is what reviews of an operator add up to.
type Result struct {
	OperatorID string  `json:"operatorId"`
	Name       string  `json:"name"`
	Reviews    int     `json:"reviews"`
	Points     float64 `json:"points"`
	Of         int     `json:"of"`
}

// resultsOf is of how long the results are.
const resultsOf = 90 * 24 * time.Hour

// Results returns what the reviews of the last 90 days add up to, by operator.
func (room *Room) Results(ctx context.Context, o access.Actor) ([]Result, error) {
	if err := mustReview(o); err != nil {
		return nil, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, err
	}
	var rows []row
	if err := room.Tables.DB.WithContext(ctx).Select("operator_id, scores").Where("sent_at > ?", room.Now().Add(-resultsOf)).Find(&rows).Error; err != nil {
		return nil, err
	}
	by := map[string]*Result{}
	list := []Result{}
	for _, r := range rows {
		one := by[r.OperatorID]
		if one == nil {
			one = &Result{OperatorID: r.OperatorID, Name: s.Operators[r.OperatorID].Name}
			by[r.OperatorID] = one
		}
		points, of := review.Total(scoresOf(r.Scores))
		one.Reviews, one.Points, one.Of = one.Reviews+1, one.Points+points, one.Of+of
	}
	for _, one := range by {
		list = append(list, *one)
	}
	slices.SortFunc(list, func(a, b Result) int { return cmp.Compare(a.Name, b.Name) })
	return list, nil
}

// Form returns by what chats are reviewed.
func (room *Room) Form(ctx context.Context) (settings.ReviewForm, error) {
	return settings.ReviewFormDocument.Read(ctx, room.Settings.Tables)
}

// SaveForm replaces it. What was scored before keeps the points of then.
func (room *Room) SaveForm(ctx context.Context, o access.Actor, in settings.ReviewForm) (settings.ReviewForm, error) {
	if err := mustReview(o); err != nil {
		return in, err
	}
	return settings.ReviewFormDocument.Change(ctx, room.Settings.Tables, func(now *settings.ReviewForm) error {
		if now.Version != in.Version {
			return store.ErrChanged
		}
		in.Tidy()
		*now = in
		return form.Refuse(in.Check())
	})
}
