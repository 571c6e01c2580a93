package reports

import (
	"cmp"
	"context"
	"math"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"
	"gorm.io/gorm"

	"stoop/core/chat"
	"stoop/core/measure"
	"stoop/internal/facts"
)

// Share is a share with how many it is of, and how sure it is.
type Share struct {
	Hits int64 `json:"hits"`
	Of   int64 `json:"of"`
	measure.Interval
}

func shareOf(hits, of int64) Share { return Share{hits, of, measure.Wilson(hits, of)} }

// Times are what a measure of time comes to, in seconds.
type Times struct {
	N      int64    `json:"n" doc:"Chats that have it"`
	Median *float64 `json:"median,omitempty"`
	P90    *float64 `json:"p90,omitempty"`
	Mean   *float64 `json:"mean,omitempty"`
}

func timesOf(d measure.Distribution) Times {
	return Times{N: d.N(), Median: known(d.Percentile(0.5)), P90: known(d.Percentile(0.9)), Mean: known(d.Mean())}
}

// known returns a number, or nothing if it is none.
func known(x float64) *float64 {
	if math.IsNaN(x) {
		return nil
	}
	return &x
}

// Amount is what sales come to in one currency.
type Amount struct {
	Cents    int64  `json:"cents" doc:"In the smallest unit of the currency"`
	Currency string `json:"currency"`
}

// ChatFigures are what some chats add up to. How each is counted says measure.Definitions.
type ChatFigures struct {
	Chats    int64    `json:"chats"`
	Answered int64    `json:"answered"`
	Missed   int64    `json:"missed"`
	Messages int64    `json:"messages"`
	Kept     int64    `json:"kept" doc:"Messages of visitors who had waited"`
	InTarget Share    `json:"inTarget"`
	Wait     Times    `json:"wait"`
	First    Times    `json:"first"`
	Later    Times    `json:"later"`
	OnTime   Share    `json:"onTime" doc:"Replies within the target"`
	Handling *float64 `json:"handling,omitempty" doc:"Seconds in the mean, of chats that somebody held"`
	HandedOn int64    `json:"handedOn" doc:"Chats that changed hands"`
	HandOns  int64    `json:"handOns" doc:"How often they did"`
	Asked    int64    `json:"asked" doc:"Visitors who were asked how it was"`
	Ratings  []int64  `json:"ratings" doc:"How many of each, from very poor to very good"`
	Rating   *float64 `json:"rating,omitempty" doc:"In the mean"`
	Good     Share    `json:"good"`
	Invited  int64    `json:"invited" doc:"Chats that came of an invitation"`
	Sold     int64    `json:"sold" doc:"Chats with a sale"`
	Sales    []Amount `json:"sales"`

	Helped       int64 `json:"helped" doc:"The helper alone answered"`
	WithHelper   int64 `json:"withHelper" doc:"Chats in which the helper spoke"`
	HelperMissed int64 `json:"helperMissed" doc:"Of the missed: the visitor left while the helper spoke with them"`
}

// ReportRow is what the chats of one part of a report add up to.
type ReportRow struct {
	Key string `json:"key" doc:"A day, an hour, an id or a name, by what the report is cut"`
	ChatFigures
}

// counted is a row as the database counts it.
type counted struct {
	Key                                         string
	Chats, Answered, Missed, Messages, Kept     int64
	InTarget, InTargetOf, Replies, OnTime       int64
	HandledS, Handled, HandedOn, HandOns, Asked int64
	Rated1, Rated2, Rated3, Rated4, Rated5      int64
	Invited, Sold                               int64
	Helped, WithHelper, HelperMissed            int64
	Currency                                    string
	Cents                                       int64
}

var countColumns = func() string {
	columns := make([]string, len(facts.Counted))
	for i, c := range facts.Counted {
		columns[i] = c.SQL + " as " + c.Name
	}
	return strings.Join(columns, ", ")
}()

func (c counted) figures() ChatFigures {
	f := ChatFigures{
		Chats: c.Chats, Answered: c.Answered, Missed: c.Missed, Messages: c.Messages, Kept: c.Kept,
		InTarget: shareOf(c.InTarget, c.InTargetOf), OnTime: shareOf(c.OnTime, c.Replies), HandedOn: c.HandedOn, HandOns: c.HandOns,
		Asked: c.Asked, Ratings: []int64{c.Rated1, c.Rated2, c.Rated3, c.Rated4, c.Rated5}, Invited: c.Invited, Sold: c.Sold, Sales: []Amount{},
		Helped: c.Helped, WithHelper: c.WithHelper, HelperMissed: c.HelperMissed,
	}
	if c.Handled > 0 {
		f.Handling = known(float64(c.HandledS) / float64(c.Handled))
	}
	rated, sum, good := int64(0), int64(0), int64(0)
	for i, n := range f.Ratings {
		rated, sum = rated+n, sum+n*int64(i+1)
		if i+1 >= chat.RatingGood {
			good += n
		}
	}
	if f.Good = shareOf(good, rated); rated > 0 {
		f.Rating = known(float64(sum) / float64(rated))
	}
	return f
}

// cut is by what chats are told apart.
type cut struct {
	key  string // in SQL, of the facts f
	args []any
	from string // what is joined besides, in SQL
	most int    // rows, those with the most chats; 0: all
	// plain: only counts, without times.
	plain bool
}

// whole is a cut into one part.
var whole = cut{key: "''"}

// times are where the measures of facts.Timed stand, in its order.
var times = []func(*ChatFigures) *Times{
	func(f *ChatFigures) *Times { return &f.Wait },
	func(f *ChatFigures) *Times { return &f.First },
	func(f *ChatFigures) *Times { return &f.Later },
}

// query begins to ask for the chats that are meant, told apart by a cut.
func (room *Room) query(ctx context.Context, f facts.Filter, c cut) *gorm.DB {
	return f.On(room.reading().DB.WithContext(ctx).Table("fact_chats f " + c.from))
}

// parted is what the database counts of chats that are told apart by a cut.
type parted struct {
	counts []counted
	sales  []counted
	spread [][]measured // by the order of times; none of a plain cut
}

// parts counts the chats that are meant, told apart by a cut; in the order of the keys,
// or if there is a most, by the most chats.
func (room *Room) parts(ctx context.Context, f facts.Filter, c cut) (p parted, err error) {
	p.spread = make([][]measured, len(times))
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(beside)
	work.Go(func() error {
		q := room.query(ctx, f, c).Select(c.key+" as key, "+countColumns, c.args...).Group("key")
		if c.most > 0 {
			q = q.Order("chats desc, key").Limit(c.most)
		} else {
			q = q.Order("key")
		}
		return q.Scan(&p.counts).Error
	})
	work.Go(func() error { return room.sales(ctx, f, c, &p.sales) })
	for i, t := range facts.Timed {
		if c.plain {
			break
		}
		work.Go(func() error {
			return room.query(ctx, f, c).Select(c.key+" as key, "+t.Column+" as value, count(*) as n", c.args...).
				Where(t.Column + " is not null and " + t.Of).Group("key, value").Order("key, value").Scan(&p.spread[i]).Error
		})
	}
	return p, work.Wait()
}

// sales reads what was sold in the chats that are meant, told apart by a cut.
func (room *Room) sales(ctx context.Context, f facts.Filter, c cut, into *[]counted) error {
	return room.query(ctx, f, c).Select(c.key+" as key, f.sale_currency as currency, sum(f.sale_cents) as cents", c.args...).
		Where("f.sale_cents is not null").Group("key, f.sale_currency").Order("key, cents desc").Scan(into).Error
}

// rows returns what each part adds up to.
func (p parted) rows() []ReportRow {
	list := make([]ReportRow, len(p.counts))
	at := make(map[string]*ReportRow, len(p.counts))
	for i, one := range p.counts {
		list[i] = ReportRow{one.Key, one.figures()}
		at[one.Key] = &list[i]
	}
	for _, s := range p.sales {
		if row := at[s.Key]; row != nil {
			row.Sales = append(row.Sales, Amount{s.Cents, s.Currency})
		}
	}
	for i, into := range times {
		for key, d := range distributions(p.spread[i]) {
			if row := at[key]; row != nil {
				*into(&row.ChatFigures) = timesOf(d)
			}
		}
	}
	return list
}

// whole returns what all parts add up to together, if each chat is in one of them.
func (p parted) whole() ChatFigures {
	sum := counted{}
	for _, c := range p.counts {
		sum = sum.and(c)
	}
	figures := sum.figures()
	for i, into := range times {
		var all []measure.Distribution
		for _, d := range distributions(p.spread[i]) {
			all = append(all, d)
		}
		*into(&figures) = timesOf(measure.Merge(all...))
	}
	cents := map[string]int64{}
	for _, s := range p.sales {
		cents[s.Currency] += s.Cents
	}
	for currency, sum := range cents {
		figures.Sales = append(figures.Sales, Amount{sum, currency})
	}
	slices.SortFunc(figures.Sales, func(a, b Amount) int {
		return cmp.Or(cmp.Compare(b.Cents, a.Cents), cmp.Compare(a.Currency, b.Currency))
	})
	return figures
}

// and returns what two parts count together.
func (c counted) and(o counted) counted {
	return counted{
		Chats: c.Chats + o.Chats, Answered: c.Answered + o.Answered, Missed: c.Missed + o.Missed, Messages: c.Messages + o.Messages, Kept: c.Kept + o.Kept,
		InTarget: c.InTarget + o.InTarget, InTargetOf: c.InTargetOf + o.InTargetOf, Replies: c.Replies + o.Replies, OnTime: c.OnTime + o.OnTime,
		HandledS: c.HandledS + o.HandledS, Handled: c.Handled + o.Handled, HandedOn: c.HandedOn + o.HandedOn, HandOns: c.HandOns + o.HandOns, Asked: c.Asked + o.Asked,
		Rated1: c.Rated1 + o.Rated1, Rated2: c.Rated2 + o.Rated2, Rated3: c.Rated3 + o.Rated3, Rated4: c.Rated4 + o.Rated4, Rated5: c.Rated5 + o.Rated5,
		Invited: c.Invited + o.Invited, Sold: c.Sold + o.Sold,
		Helped: c.Helped + o.Helped, WithHelper: c.WithHelper + o.WithHelper, HelperMissed: c.HelperMissed + o.HelperMissed,
	}
}

// beside is how many questions a report puts to the database at once: some connections
// must be left to those who chat.
const beside = 3

// measured is how often a value was measured in a part.
type measured struct {
	Key   string
	Value int
	N     int64
}

func distributions(all []measured) map[string]measure.Distribution {
	found := map[string]measure.Distribution{}
	for _, m := range all {
		found[m.Key] = append(found[m.Key], measure.Count{Value: m.Value, N: m.N})
	}
	return found
}

// total returns what all chats that are meant add up to.
func (room *Room) total(ctx context.Context, f facts.Filter) (ChatFigures, error) {
	p, err := room.counted(ctx, f, "", "", whole)
	return p.whole(), err
}

// withKeys returns rows in the order of some keys; where there is none, one of no chats.
func withKeys(rows []ReportRow, keys []string) []ReportRow {
	out := make([]ReportRow, len(keys))
	for i, key := range keys {
		at := slices.IndexFunc(rows, func(r ReportRow) bool { return r.Key == key })
		if at < 0 {
			out[i] = ReportRow{key, counted{}.figures()}
			continue
		}
		out[i] = rows[at]
	}
	return out
}
