package visit_test

import (
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/visit"
)

var rules = visit.InterestRules{
	Topics: []visit.Topic{
		{Name: "Freight", Pages: []string{"/freight*"}, Points: 10, Most: 25},
		{Name: "Animals", Pages: []string{"/animals"}, Points: 5, Most: 5},
	},
	Minute: 4, MinutesMost: 30, Basket: 20, BasketStep: 50, BasketMost: 40, Return: 5, ReturnMost: 15,
}

func views(paths ...string) (list []visit.View) {
	for _, p := range paths {
		list = append(list, visit.View{URL: "https://kelpwick.example" + p})
	}
	return list
}

// A score is nothing but the sum of its reasons.
func TestAScoreIsItsReasons(t *testing.T) {
	i := rules.Of(visit.Seen{Views: views("/animals", "/freight", "/freight/rates", "/freight"), Attended: 2*time.Minute + 59*time.Second, Basket: 268, Earlier: 2})
	require.Equal(t, []string{"Freight", "Animals"}, i.Topics)
	require.Equal(t, []visit.Reason{
		{Code: visit.ByTopic, Points: 20, Values: map[string]string{"topic": "Freight", "pages": "2"}},
		{Code: visit.ByTopic, Points: 5, Values: map[string]string{"topic": "Animals", "pages": "1"}},
		{Code: visit.ByTime, Points: 8, Values: map[string]string{"minutes": "2"}},
		{Code: visit.ByBasket, Points: 25, Values: map[string]string{"value": "268.00"}},
		{Code: visit.ByReturn, Points: 10, Values: map[string]string{"visits": "2"}},
	}, i.Reasons)
	sum := 0
	for _, r := range i.Reasons {
		sum += r.Points
	}
	require.Equal(t, sum, i.Score)
}

func TestScoresAreBounded(t *testing.T) {
	none := rules.Of(visit.Seen{Views: views("/", "/help")})
	require.Zero(t, none.Score)
	require.Empty(t, none.Topics, "nothing was looked at that is a topic")
	require.Empty(t, none.Reasons)
	require.Zero(t, rules.Of(visit.Seen{Basket: -5}).Score)
	require.Zero(t, rules.Of(visit.Seen{Basket: math.Inf(1)}).Score)
	require.Zero(t, rules.Of(visit.Seen{Basket: math.NaN()}).Score)
	all := rules.Of(visit.Seen{Views: views("/animals", "/freight/a", "/freight/b", "/freight/c"), Attended: 100 * time.Hour, Basket: 1e300, Earlier: math.MaxInt})
	require.Equal(t, visit.MostPoints, all.Score)
}

func TestInterestRulesAreChecked(t *testing.T) {
	require.Empty(t, visit.UsualInterest.Check())
	require.Empty(t, rules.Check())
	bad := visit.InterestRules{Minute: -1, BasketStep: -1, Topics: []visit.Topic{{Name: "", Pages: nil, Points: 101}, {Name: "A", Pages: []string{"freight"}}, {Name: "A", Pages: []string{"/a"}}}}
	fields := []string{}
	for _, w := range bad.Check() {
		fields = append(fields, w.Field)
	}
	require.ElementsMatch(t, []string{"minute", "basketStep", "topics.0.name", "topics.0.points", "topics.0.pages", "topics.1.pages", "topics.2.name"}, fields)
}
