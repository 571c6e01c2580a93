package visits

import (
	"time"

	"stoop/core/routing"
	"stoop/core/visit"
)

// Interest returns how much the latest visit seems to want something.
func (k Known) Interest(rules visit.InterestRules) visit.Interest {
	v := k.Latest
	return rules.Of(visit.Seen{Views: v.Stay.Views, Attended: v.Stay.Attended(), Basket: v.Basket.Value(), Earlier: max(k.Visits-1, 0)})
}

// Facts returns what rules may ask of somebody's visit.
func (k Known) Facts(rules visit.InterestRules, now time.Time) routing.Facts {
	v := k.Latest
	interest := k.Interest(rules)
	f := routing.Facts{
		PageURL: v.PageURL, PageTitle: v.PageTitle, Referrer: v.Referrer, Country: v.Place.Country, Language: v.Language,
		Device: visit.DeviceOf(v.UserAgent).Kind, Visits: k.Visits, Basket: v.Basket.Value(),
		Pages: v.Stay.Pages, Score: interest.Score, Topics: interest.Topics, Source: string(v.Stay.Source.Kind), Campaign: v.Stay.Source.Campaign,
	}
	f.Vouched = v.Data.Vouched
	if v.Basket != nil {
		f.BasketChange = v.Basket.whole(v.Basket.Change)
	}
	if !v.StartedAt.IsZero() {
		f.SiteSeconds, f.PageSeconds = int(now.Sub(v.StartedAt).Seconds()), int(now.Sub(v.PageSince).Seconds())
	}
	return f
}
