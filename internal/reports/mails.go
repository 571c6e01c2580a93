package reports

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/internal/again"
	"stoop/internal/facts"
	"stoop/internal/problem"
)

// Post is what sends mail.
type Post interface {
	// Sends reports whether mail can be sent at all.
	Sends() bool
	// SendReport sends a report to somebody of the team, soon, as part of a transaction.
	SendReport(ctx context.Context, tx pgx.Tx, operatorID string, m facts.Mailed) error
}

func briefOf(f ChatFigures) facts.Brief {
	return facts.Brief{
		Chats: f.Chats, Answered: f.Answered, Missed: f.Missed, Messages: f.Messages, InTarget: f.InTarget.Hits, InTargetOf: f.InTarget.Of,
		Wait: f.Wait.Median, First: f.First.Median, Rating: f.Rating, Rated: f.Good.Of,
	}
}

// ReportMail is a report that somebody gets by mail.
type ReportMail struct {
	OperatorID string    `json:"-"`
	Every      string    `json:"every" enum:"day,week,month"`
	Address    string    `json:"address" doc:"By what it is narrowed, as behind the ? of the page" maxLength:"2000"`
	NextAt     time.Time `json:"nextAt" readOnly:"true"`
}

// mailHour is when reports go out, by the team's clocks.
const mailHour = 7

// nextMail returns when a report goes out next after a time: each morning, on Mondays, or
// on the first of a month.
func nextMail(every string, after time.Time, zone *time.Location) time.Time {
	local := after.In(zone)
	for day := 0; ; day++ {
		at := time.Date(local.Year(), local.Month(), local.Day()+day, mailHour, 0, 0, 0, zone)
		if at.After(after) && (every == "day" || every == "week" && at.Weekday() == time.Monday || every == "month" && at.Day() == 1) {
			return at
		}
	}
}

// mailedDays returns of which days a report is that goes out at a time: of the whole day,
// week or month before.
func mailedDays(every string, at time.Time, zone *time.Location) (from, to time.Time) {
	local := at.In(zone)
	today := time.Date(local.Year(), local.Month(), local.Day(), 12, 0, 0, 0, zone)
	switch every {
	case "week":
		return today.AddDate(0, 0, -7), today.AddDate(0, 0, -1)
	case "month":
		return today.AddDate(0, -1, 0), today.AddDate(0, 0, -1)
	}
	return today.AddDate(0, 0, -1), today.AddDate(0, 0, -1)
}

// Mails returns which reports somebody gets by mail.
func (room *Room) Mails(ctx context.Context, o access.Actor) ([]ReportMail, error) {
	if !o.May(access.SeeReports) {
		return nil, access.ErrNotAllowed
	}
	list := []ReportMail{}
	err := room.Facts.DB.WithContext(ctx).Where("operator_id = ?", o.ID).Order("every").Find(&list).Error
	return list, err
}

// Subscribe lets somebody get a report by mail, in place of the one as often before.
func (room *Room) Subscribe(ctx context.Context, o access.Actor, m ReportMail) (ReportMail, error) {
	if !o.May(access.SeeReports) {
		return m, access.ErrNotAllowed
	}
	if !room.Post.Sends() {
		return m, problem.New(409, "no-mail", "No mail can be sent", "An admin must set a mail server first: STOOP_SMTP.")
	}
	m.OperatorID = o.ID
	if _, err := room.told(ctx, m); err != nil { // what cannot be made now cannot be made each morning
		return m, problem.New(422, "no-such-report", "This report cannot be sent", "Open the report, then choose again.")
	}
	m.NextAt = nextMail(m.Every, room.Now(), room.Zone)
	_, err := room.Facts.Pool().Exec(ctx, `insert into report_mails (operator_id, every, address, next_at) values ($1, $2, $3, $4)
		on conflict (operator_id, every) do update set address = excluded.address, next_at = excluded.next_at`, m.OperatorID, m.Every, m.Address, m.NextAt)
	return m, err
}

// Unsubscribe ends that.
func (room *Room) Unsubscribe(ctx context.Context, o access.Actor, every string) error {
	_, err := room.Facts.Pool().Exec(ctx, "delete from report_mails where operator_id = $1 and every = $2", o.ID, every)
	return err
}

// askedIn reads by what a report is narrowed from an address: what a mail can tell of, the
// departments, operators, widgets and tags.
func askedIn(address string) (facts.Asked, error) {
	query, err := url.ParseQuery(address)
	a := facts.Asked{Hour: -1, Departments: query["department"], Operators: query["operator"], Widgets: query["widget"], Tags: query["tag"], Zone: query.Get("zone")}
	return a, err
}

// Run sends the reports that are due, until the context ends.
func (room *Room) Run(ctx context.Context) {
	again.Every(ctx, time.Minute, func() {
		again.InTime(ctx, room.Log, "sending reports by mail", room.SendDue)
	})
}

// SendDue sends the reports that are due. One that was due while no server ran goes out
// once, of the days before today.
func (room *Room) SendDue(ctx context.Context) error {
	for {
		sent, err := room.sendOne(ctx)
		if err != nil || !sent {
			return err
		}
	}
}

func (room *Room) sendOne(ctx context.Context) (more bool, err error) {
	var m ReportMail
	err = room.Facts.Pool().QueryRow(ctx, "select operator_id::text, every, address, next_at from report_mails where next_at <= $1 order by next_at limit 1", room.Now()).
		Scan(&m.OperatorID, &m.Every, &m.Address, &m.NextAt)
	if errors.Is(err, pgx.ErrNoRows) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	told, err := room.told(ctx, m)
	if errors.Is(err, access.ErrNotAllowed) { // they may not read reports any more
		_, err = room.Facts.Pool().Exec(ctx, "delete from report_mails where operator_id = $1", m.OperatorID)
		return true, err
	}
	if ctx.Err() != nil {
		return false, ctx.Err()
	}
	if err != nil {
		// Those who are due after them must not wait for it.
		room.Log.Error("a report could not be made for a mail, and is tried again in an hour", "operator", m.OperatorID, "every", m.Every, "error", err)
		return true, room.move(ctx, m, room.Now().Add(putOff), func(pgx.Tx) error { return nil })
	}
	return true, room.move(ctx, m, nextMail(m.Every, room.Now(), room.Zone), func(tx pgx.Tx) error {
		return room.Post.SendReport(ctx, tx, m.OperatorID, told)
	})
}

const (
	toldWithin = 10 * time.Second // one report
	putOff     = time.Hour        // after which one is tried again that could not be made
)

// move lets a report be due at another time and does what follows from that, unless another
// server was quicker.
func (room *Room) move(ctx context.Context, m ReportMail, to time.Time, then func(pgx.Tx) error) error {
	return pgx.BeginFunc(ctx, room.Facts.Pool(), func(tx pgx.Tx) error {
		moved, err := tx.Exec(ctx, "update report_mails set next_at = $4 where operator_id = $1 and every = $2 and next_at = $3", m.OperatorID, m.Every, m.NextAt, to)
		if err != nil || moved.RowsAffected() == 0 {
			return err
		}
		return then(tx)
	})
}

// told returns what a mail tells.
func (room *Room) told(ctx context.Context, m ReportMail) (facts.Mailed, error) {
	ctx, cancel := context.WithTimeout(ctx, toldWithin)
	defer cancel()
	o, err := room.Settings.Actor(ctx, m.OperatorID)
	if err != nil {
		return facts.Mailed{}, err
	}
	in, err := askedIn(m.Address)
	if err != nil {
		return facts.Mailed{}, err
	}
	from, to := mailedDays(m.Every, room.Now(), room.Zone)
	in.From, in.To = from.Format(time.DateOnly), to.Format(time.DateOnly)
	report, err := room.Report(ctx, o, in, "", AgainstBefore, false)
	if err != nil {
		return facts.Mailed{}, err
	}
	page := url.Values{"from": {in.From}, "to": {in.To}}
	for name, values := range map[string][]string{"department": in.Departments, "operator": in.Operators, "widget": in.Widgets, "tag": in.Tags} {
		page[name] = values
	}
	return facts.Mailed{
		Every: m.Every, From: in.From, To: in.To, Address: page.Encode(), Now: briefOf(report.Total), Before: briefOf(*report.Earlier),
		ID: fmt.Sprintf("%s.%s.%s", m.OperatorID, m.Every, in.To),
	}, nil
}
