package reviews

import (
	"context"
	"database/sql"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/review"
	"stoop/internal/facts"
	"stoop/internal/problem"
	"stoop/internal/store"
)

// Draw is chats that a lead drew.
type Draw struct {
	ID         string    `json:"id"`
	ByID       string    `json:"-"`
	By         string    `json:"by" gorm:"-"`
	Name       string    `json:"name"`
	Address    string    `json:"address" doc:"Of which chats was drawn, as behind the ? of the transcripts"`
	Spread     string    `json:"spread" enum:"operator,rating,length,outcome" doc:"As many of each"`
	Seed       string    `json:"seed" doc:"The same one draws the same chats again"`
	Size       int       `json:"size"`
	Candidates int       `json:"candidates" doc:"Chats that could have been drawn"`
	CreatedAt  time.Time `json:"createdAt"`
	Sent       int       `json:"sent" gorm:"->" doc:"Chats of it that were reviewed"`
	Left       int       `json:"left" gorm:"->" doc:"Chats of it that were not yet"`
}

// TableName names the table to GORM.
func (Draw) TableName() string { return "review_draws" }

// DrawOrder is what a lead wants to draw.
type DrawOrder struct {
	Name    string `json:"name" maxLength:"120"`
	Address string `json:"address" maxLength:"2000"`
	Spread  string `json:"spread" enum:"operator,rating,length,outcome"`
	Seed    string `json:"seed,omitempty" maxLength:"60" doc:"Empty: a new one"`
	Size    int    `json:"size" minimum:"1" maximum:"200"`
}

// candidatesMost bounds of how many chats can be drawn.
const candidatesMost = 200_000

// drawsShown bounds the list of draws.
const drawsShown = 100

func mustReview(o access.Actor) error {
	if !o.May(access.ReviewChats) {
		return access.ErrNotAllowed
	}
	return nil
}

// Draw draws chats of those that are asked for.
func (room *Room) Draw(ctx context.Context, o access.Actor, asked facts.Asked, order DrawOrder) (Draw, error) {
	if err := mustReview(o); err != nil {
		return Draw{}, err
	}
	candidates, held, err := room.Transcripts.Candidates(ctx, asked, order.Spread, candidatesMost+1)
	if err != nil {
		return Draw{}, err
	}
	// Nobody reviews their own chats.
	candidates = slices.DeleteFunc(candidates, func(c review.Candidate) bool { return held[c.Chat] == o.ID })
	switch {
	case len(candidates) == 0:
		return Draw{}, problem.New(http.StatusUnprocessableEntity, "nothing-to-draw", "There is nothing to draw", "No answered chat fits this search.")
	case len(candidates) > candidatesMost:
		return Draw{}, problem.New(http.StatusUnprocessableEntity, "too-many-to-draw", "These are too many chats", "Choose a shorter period first.")
	}
	d := Draw{
		ID: uuid.NewString(), ByID: o.ID, Name: chat.CleanLine(order.Name, 120), Address: order.Address, Spread: order.Spread, Seed: chat.CleanLine(order.Seed, 60),
		Candidates: len(candidates), CreatedAt: room.Now(),
	}
	if d.Seed == "" {
		d.Seed = uuid.NewString()[:8]
	}
	drawn := review.Draw(candidates, order.Size, d.Seed)
	d.Size, d.Left = len(drawn), len(drawn)
	rows := make([]row, len(drawn))
	for i, id := range drawn {
		rows[i] = row{ID: uuid.NewString(), DrawID: &d.ID, Position: i, ChatID: id, OperatorID: held[id], Scores: []Scored{}, Version: 1}
	}
	err = room.Tables.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Create(&d).Error; err != nil {
			return err
		}
		return tx.CreateInBatches(rows, 100).Error
	})
	d.By = room.Settings.OperatorName(o.ID)
	return d, err
}

// countsOfDraws counts in SQL what somebody may read of a draw: not their own chats.
const countsOfDraws = `review_draws.*,
	(select count(*) from reviews r where r.draw_id = review_draws.id and r.operator_id <> @me and r.sent_at is not null) as sent,
	(select count(*) from reviews r where r.draw_id = review_draws.id and r.operator_id <> @me and r.sent_at is null) as left`

// Draws returns the draws, the latest first.
func (room *Room) Draws(ctx context.Context, o access.Actor) ([]Draw, error) {
	if err := mustReview(o); err != nil {
		return nil, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, err
	}
	list := []Draw{}
	err = room.Tables.DB.WithContext(ctx).Select(countsOfDraws, sql.Named("me", o.ID)).Order("created_at desc").Limit(drawsShown).Find(&list).Error
	for i := range list {
		list[i].By = s.Operators[list[i].ByID].Name
	}
	return list, err
}

// EndDraw puts away what is left of a draw. What was reviewed stays; a draw of which
// nothing was goes altogether.
func (room *Room) EndDraw(ctx context.Context, o access.Actor, id string) error {
	if err := mustReview(o); err != nil {
		return err
	}
	return room.Tables.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var d Draw
		if err := tx.Where("id = ?", id).Take(&d).Error; err != nil {
			return store.NotFound(err)
		}
		if err := tx.Exec("delete from reviews where draw_id = ? and sent_at is null", id).Error; err != nil {
			return err
		}
		return tx.Exec("delete from review_draws d where id = ? and not exists (select from reviews r where r.draw_id = d.id)", id).Error
	})
}
