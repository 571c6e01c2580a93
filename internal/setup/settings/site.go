package settings

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/visit"
)

// SiteSettings are what an admin says of watching the sites.
type SiteSettings struct {
	Version        string `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Zone           string `json:"zone" doc:"Of the site, in which midnight ends visits; empty for the team's"`
	SilenceMinutes int    `json:"silenceMinutes" doc:"After which the next page begins another visit"`
	NewSource      bool   `json:"newSource" doc:"Coming from another campaign or site begins another visit"`
	Midnight       bool   `json:"midnight" doc:"Midnight ends all visits"`

	Interest visit.InterestRules `json:"interest"`
	Privacy  Privacy             `json:"privacy"`
}

// Privacy is what is not asked of visitors, or not kept.
type Privacy struct {
	CollectNothing       bool     `json:"collectNothing" doc:"No page and no address is kept of anybody, and nobody is shown on the site"`
	DoNotTrack           bool     `json:"doNotTrack" doc:"Nothing is collected of who sends Do Not Track"`
	GlobalPrivacyControl bool     `json:"globalPrivacyControl" doc:"Nothing is collected of who sends Global Privacy Control"`
	ShortenAddress       bool     `json:"shortenAddress" doc:"The last part of addresses is not kept"`
	AskConsent           bool     `json:"askConsent" doc:"Nothing is collected until the visitor agrees"`
	ConsentText          string   `json:"consentText"`
	QueryParameters      []string `json:"queryParameters" doc:"Of page addresses, kept beside the path; all others are dropped"`
}

func firstSite() SiteSettings {
	return SiteSettings{
		SilenceMinutes: int(visit.Usual.Silence / time.Minute), NewSource: visit.Usual.NewSource, Midnight: visit.Usual.Midnight,
		Interest: visit.UsualInterest,
		Privacy:  Privacy{GlobalPrivacyControl: true, ConsentText: "May we see which pages you look at, to help you better?", QueryParameters: []string{}},
	}
}

// Rules returns when a visit ends, in the zone of the site or else the team's.
func (s SiteSettings) Rules(team *time.Location) visit.Rules {
	zone := team
	if own, err := time.LoadLocation(s.Zone); err == nil && s.Zone != "" {
		zone = own
	}
	return visit.Rules{Silence: time.Duration(s.SilenceMinutes) * time.Minute, NewSource: s.NewSource, Midnight: s.Midnight, Zone: zone}
}

// Tidy brings what was typed into the form in which it is stored.
func (s *SiteSettings) Tidy() {
	s.Zone = strings.TrimSpace(s.Zone)
	s.Privacy.ConsentText = chat.CleanLine(s.Privacy.ConsentText, 300)
	s.Privacy.QueryParameters = TidyLines(s.Privacy.QueryParameters, 60)
	for i := range s.Interest.Topics {
		t := &s.Interest.Topics[i]
		t.Name, t.Pages = chat.CleanLine(t.Name, 60), TidyLines(t.Pages, visit.PatternLength+1)
	}
	if s.Interest.Topics == nil {
		s.Interest.Topics = []visit.Topic{}
	}
}

// TidyLines cleans a list of short texts and leaves out what is empty or twice.
func TidyLines(lines []string, limit int) []string {
	out := []string{}
	for _, line := range lines {
		if line = chat.CleanLine(line, limit); line != "" && !slices.Contains(out, line) {
			out = append(out, line)
		}
	}
	return out
}

// Check returns what is wrong with the settings.
func (s SiteSettings) Check() []form.Wrong {
	var wrong []form.Wrong
	at := func(field, words string) { wrong = append(wrong, form.Wrong{Field: field, Words: words}) }
	if _, err := time.LoadLocation(s.Zone); err != nil {
		at("zone", "This is not a known time zone, like Europe/Copenhagen.")
	}
	if s.SilenceMinutes < 1 || s.SilenceMinutes > 24*60 {
		at("silenceMinutes", "The silence must be between 1 and 1440 minutes.")
	}
	if s.Privacy.AskConsent && s.Privacy.ConsentText == "" {
		at("privacy.consentText", "Say what visitors are asked.")
	}
	if len(s.Privacy.QueryParameters) > 50 {
		at("privacy.queryParameters", "There can be up to 50 parameters.")
	}
	for _, w := range s.Interest.Check() {
		at(fmt.Sprint("interest.", w.Field), w.Words)
	}
	return wrong
}
