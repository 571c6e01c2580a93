package settings

import (
	"encoding/json"
)

// Preferences are how an operator wants their console. All of them are theirs
// alone; a missing one has its default.
type Preferences struct {
	LineWidth   int            `json:"lineWidth,omitempty" minimum:"200" maximum:"520" doc:"Pixels"`
	AboutWidth  int            `json:"aboutWidth,omitempty" minimum:"220" maximum:"560"`
	AboutOpen   *bool          `json:"aboutOpen,omitempty"`
	LaneShares  map[string]int `json:"laneShares,omitempty" doc:"Widths of lanes beside each other, in percent, by their number and place"`
	Sound       string         `json:"sound,omitempty" enum:"steps,bell,wood,ferry,none"`
	WordsSound  string         `json:"wordsSound,omitempty" enum:"knock,drop,tick,none"`
	Volume      *int           `json:"volume,omitempty" minimum:"0" maximum:"100"`
	Desktop     *bool          `json:"desktop,omitempty"`
	Title       *bool          `json:"title,omitempty" doc:"What waits in the title of the tab"`
	RingAgain   *bool          `json:"ringAgain,omitempty" doc:"Ring for who still waits, at growing pauses"`
	Language    string         `json:"language,omitempty" enum:"en,de" doc:"Of the mails to me, and of a console in a browser where none was chosen"`
	SiteColumns []string       `json:"siteColumns,omitempty" maxItems:"30" doc:"Of the visitors, in their order"`
	SiteViews   []SiteView     `json:"siteViews,omitempty" maxItems:"50" doc:"Of the visitors, kept under a name"`

	AlertSound string `json:"alertSound,omitempty" enum:"steps,bell,wood,ferry,none" doc:"When leads are called"`
	MailAlerts string `json:"mailAlerts,omitempty" enum:"never,mine,all" doc:"Email when leads are called: for my departments, or for all"`

	PushAlerts string `json:"pushAlerts,omitempty" enum:"never,mine,all" doc:"Push when leads are called: for my departments, if nothing is chosen"`

	MailMessage *bool `json:"mailMessage,omitempty" doc:"Email for each message left for my departments"`
}

// SiteView is a way to look at the visitors that somebody kept.
type SiteView struct {
	Name    string `json:"name" minLength:"1" maxLength:"60"`
	Address string `json:"address" maxLength:"1000" doc:"The search part of the page's address"`
}

// PreferencesOf returns how an operator wants their console.
func PreferencesOf(o Operator) (Preferences, error) {
	var p Preferences
	data, err := json.Marshal(o.Preferences)
	if err == nil {
		err = json.Unmarshal(data, &p)
	}
	return p, err
}
