// Package facts keeps what reports count and transcripts are filtered by: one row for
// each ended chat, one for each chat and operator, and what came and was under way in
// each quarter of an hour. All of it follows from the chats' logs by core/measure, and
// is the same whenever it is followed anew.
package facts

import (
	"net/url"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgtype"

	"stoop/core/chat"
	"stoop/core/measure"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// Tables are the facts.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Of names what the facts of a chat need besides its log.
type Of struct {
	ChatID, WidgetID, VisitorID, Language string
}

// Rules returns what measures ask of the set-up. Where the hours of a department change,
// the open time of messages answered before changes with them when facts are rebuilt.
func Rules(s *settings.Settings) measure.Rules {
	return measure.Rules{
		Target: func(department string) int { return s.Departments[department].TargetSeconds },
		Open: func(department string, from, to time.Time) (open time.Duration) {
			d := s.Departments[department]
			if d.HoursID == nil {
				return to.Sub(from)
			}
			for _, in := range s.Hours[*d.HoursID].Schedule().Between(from, to) {
				open += in.To.Sub(in.From)
			}
			return open
		},
	}
}

// The columns of both kinds of rows, in the order of their values.
var (
	chatColumns = []string{
		"chat_id", "widget_id", "visitor_id", "arrived_at", "ended_at", "ending", "missed", "first_department_id", "department_id", "owner_id", "operators",
		"rule", "page", "page_title", "country", "source", "language", "invited", "target_s", "wait_s", "in_target", "waited_s", "kept_s", "first_s", "later_s",
		"replies", "on_time", "slowest_s", "silence_s", "turns", "lasted_s", "active_s", "wrap_s", "open_s", "hand_ons", "visitor_lines", "team_lines",
		"surveyed", "rating", "rated_words", "tags", "outcome", "sale_cents", "sale_currency", "helper", "helper_words",
	}
	operatorColumns = []string{
		"chat_id", "operator_id", "department_id", "arrived_at", "live", "held", "active_s", "wrap_s", "lines", "replies", "reply_s", "on_time", "first_s", "got", "gave", "ended", "guest",
	}
)

// chatRow returns the values of a chat's row.
func chatRow(of Of, c measure.Chat) []any {
	var rating *int16
	if c.Rating > 0 {
		r := int16(c.Rating)
		rating = &r
	}
	var cents *int64
	currency := ""
	if c.Sale != nil {
		cents, currency = &c.Sale.Cents, c.Sale.Currency
	}
	holders := []pgtype.UUID{}
	for _, o := range c.Operators {
		if len(o.Held) > 0 {
			holders = append(holders, id(o.ID))
		}
	}
	tags := append([]string{}, c.Tags...)
	page, title := Page(c.PageURL), c.PageTitle
	return []any{
		id(of.ChatID), id(of.WidgetID), id(of.VisitorID), c.Arrived, c.Ended, string(c.Ending), string(c.Missed), id(c.FirstDepartment), id(c.Department), id(c.Owner), holders,
		c.RuleName, page, title, c.Country, c.Source, of.Language, c.Invited, int32(c.Target), number(c.Wait), c.InTarget, int32(c.WaitedAll), number(c.Kept), number(c.First), number(c.Later),
		int32(c.Replies), int32(c.OnTime), number(c.Slowest), int32(c.Silence), int32(c.Turns), int32(c.Lasted), int32(c.Active), int32(c.WrapUp), number(c.OpenReply),
		int32(c.HandOns), int32(c.VisitorLines), int32(c.TeamLines), c.Surveyed, rating, c.Words, tags, c.Outcome, cents, currency, string(c.Helper), int32(c.HelperWords),
	}
}

// operatorRows returns the values of the rows of those who took part in a chat.
func operatorRows(of Of, c measure.Chat) [][]any {
	rows := make([][]any, 0, len(c.Operators))
	for _, o := range c.Operators {
		held := pgtype.Multirange[pgtype.Range[pgtype.Timestamptz]]{}
		for _, s := range o.Held {
			if s.To.After(s.From) {
				held = append(held, pgtype.Range[pgtype.Timestamptz]{
					Lower: pgtype.Timestamptz{Time: s.From, Valid: true}, Upper: pgtype.Timestamptz{Time: s.To, Valid: true},
					LowerType: pgtype.Inclusive, UpperType: pgtype.Exclusive, Valid: true,
				})
			}
		}
		rows = append(rows, []any{
			id(of.ChatID), id(o.ID), id(o.Department), c.Arrived, c.Ending != chat.LeftMessage, held, int32(o.Active), int32(o.WrapUp), int32(o.Lines), int32(o.Replies), int64(o.ReplySum), int32(o.OnTime), number(o.First),
			o.Got, o.Gave, o.Ended, o.Guest,
		})
	}
	return rows
}

// Page returns by what a page is counted: its path, without what stands behind the ?.
func Page(address string) string {
	u, err := url.Parse(address)
	if err != nil || u.Host == "" {
		return ""
	}
	if u.Path == "" {
		return "/"
	}
	if len(u.Path) > 300 {
		return u.Path[:300]
	}
	return u.Path
}

func id(text string) pgtype.UUID {
	u, err := uuid.Parse(text)
	return pgtype.UUID{Bytes: u, Valid: err == nil}
}

func number(n *int) *int32 {
	if n == nil {
		return nil
	}
	small := int32(*n)
	return &small
}

// late are the kinds of events after which the facts of an ended chat are others.
var late = []chat.Kind{
	chat.Ended, chat.WrappedUp, chat.Tagged, chat.Untagged, chat.Concluded, chat.Rated, chat.Refused,
}
