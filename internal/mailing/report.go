package mailing

import (
	"context"
	"fmt"
	"strconv"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/measure"
	"stoop/internal/facts"
	"stoop/internal/setup/settings"
	"stoop/internal/wording"
)

// SendReport sends a report to somebody of the team. It is a job.
type SendReport struct {
	OperatorID string       `json:"operatorId"`
	Told       facts.Mailed `json:"told"`
}

// Kind names the job to River.
func (SendReport) Kind() string { return "send_report" }

// SendReport sends a report to somebody of the team, soon, as part of a transaction.
func (room *Room) SendReport(ctx context.Context, tx pgx.Tx, operatorID string, told facts.Mailed) error {
	return room.Jobs.Add(ctx, tx, SendReport{operatorID, told}, room.Now())
}

// figure is a line of a mail: what it was, and what it was before.
type figure struct{ Now, Before string }

func (room *Room) sendReport(ctx context.Context, j SendReport) error {
	if room.Mail == nil {
		return nil
	}
	o, err := room.Settings.Tables.OperatorByID(ctx, j.OperatorID)
	if err != nil || !o.Active {
		return err
	}
	p, err := settings.PreferencesOf(o)
	if err != nil {
		return err
	}
	words, now, before := wording.In(p.Language), j.Told.Now, j.Told.Before
	count := func(a, b int64) figure { return figure{strconv.FormatInt(a, 10), strconv.FormatInt(b, 10)} }
	told := struct {
		Every, From, To, Link                                            string
		Chats, Answered, Missed, Messages, InTarget, Wait, First, Rating figure
	}{
		j.Told.Every, j.Told.From, j.Told.To, room.URL + "/reports/overview?" + j.Told.Address,
		count(now.Chats, before.Chats), count(now.Answered, before.Answered), count(now.Missed, before.Missed), count(now.Messages, before.Messages),
		figure{part(now.InTarget, now.InTargetOf), part(before.InTarget, before.InTargetOf)}, figure{clock(now.Wait), clock(before.Wait)}, figure{clock(now.First), clock(before.First)},
		figure{rating(now), rating(before)},
	}
	return room.toTeam(ctx, o.Email, words, "report", told, j.Told.ID+".report")
}

// part says a share in percent, or of few, how many of how many.
func part(hits, of int64) string {
	switch {
	case of == 0:
		return "-"
	case of < measure.Enough:
		return fmt.Sprintf("%d/%d", hits, of)
	}
	return fmt.Sprintf("%d %%", (200*hits+of)/(2*of))
}

func clock(seconds *float64) string {
	if seconds == nil {
		return "-"
	}
	return wording.Clock(time.Duration(*seconds * float64(time.Second)))
}

func rating(b facts.Brief) string {
	if b.Rating == nil {
		return "-"
	}
	return fmt.Sprintf("%.1f (%d)", *b.Rating, b.Rated)
}
