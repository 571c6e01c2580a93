package widget

import (
	"bytes"
	"encoding/json"
	"maps"
	"slices"

	"stoop/core/form"
)

// Design is all that an admin says of the chat on a site. It is edited as a
// draft, published as a whole, and kept in the widget's history.
type Design struct {
	Name  string   `json:"name" doc:"For the team"`
	Sites []string `json:"sites" doc:"Addresses of the sites that may carry it"`

	Title          string `json:"title" doc:"What the launcher says"`
	Greeting       string `json:"greeting" doc:"Before a chat, while somebody is in"`
	ClosedGreeting string `json:"closedGreeting" doc:"Before a message, while nobody is"`
	Survey         Survey `json:"survey"`

	Colour string `json:"colour" doc:"Like #9c3f27"`
	Corner string `json:"corner" enum:"left,right"`
	Looks  Looks  `json:"looks"`

	Languages []string `json:"languages" doc:"Spoken to visitors; the first is that of the texts above, and spoken to whoever speaks none of them"`
	Texts     Texts    `json:"texts" doc:"By language: texts in the place of the usual ones, and translations"`

	ShowOn     []string `json:"showOn" doc:"Patterns of pages on which it is shown; empty for all"`
	HideOn     []string `json:"hideOn" doc:"Patterns of pages on which it is not"`
	HideClosed bool     `json:"hideClosed" doc:"The launcher is not shown while nobody is in"`

	Departments []string `json:"departments" doc:"Ids of those whom its chats may go to; empty for all"`
	HoursID     *string  `json:"hoursId,omitempty" doc:"Outside of these hours it is closed, whoever is in"`
	Uninvited   bool     `json:"uninvited" doc:"Visitors are not invited"`

	Help Help `json:"help" doc:"What visitors can find by themselves before a chat"`

	Helper Helper `json:"helper" doc:"What answers before a person does"`

	Form         form.Form `json:"form" doc:"What is asked before a chat"`
	ReachBy      string    `json:"reachBy" enum:"email,phone,either" doc:"What a message needs"`
	DraftsSeen   bool      `json:"draftsSeen" doc:"The team sees what a visitor is typing; the visitor is told so"`
	VisitorFiles bool      `json:"visitorFiles" doc:"Visitors may send files"`
	MessageLimit int       `json:"messageLimit" doc:"Longest message, in characters"`

	Automatic []Automatic `json:"automatic" doc:"What is said by itself in a chat; of several that are due, the first"`

	AnswerTargetSeconds int `json:"answerTargetSeconds" doc:"Of chats that no department has yet"`
	GoneSeconds         int `json:"goneSeconds" doc:"After which a waiting visitor who left is missed"`
}

// Survey is what visitors of a widget are asked after a chat.
type Survey struct {
	On            bool   `json:"on"`
	Question      string `json:"question" doc:"Empty for the usual one, in the visitor's language"`
	WordsQuestion string `json:"wordsQuestion" doc:"Empty for the usual one, in the visitor's language"`
	ByMail        bool   `json:"byMail" doc:"Who gave an address and said nothing gets a link by email"`
}

// Looks are what is seen of a widget besides its colour and corner.
type Looks struct {
	Distance  int               `json:"distance" doc:"From that side of the page, in pixels"`
	Size      string            `json:"size" enum:"small,usual,large" doc:"Of the launcher"`
	Icon      string            `json:"icon" enum:"none,speech,question,buoy" doc:"In the launcher"`
	Faces     bool              `json:"faces" doc:"The operator's photo or initials are shown"`
	Links     []Link            `json:"links" doc:"At the foot of the panel, such as social pages"`
	Variables map[string]string `json:"variables" doc:"What its styles are made of, by name"`
}

// Link leads from the panel to a page.
type Link struct {
	Label string `json:"label"`
	URL   string `json:"url"`
}

// UsualLooks are those of a new widget.
var UsualLooks = Looks{Distance: 24, Size: "usual", Icon: "none", Faces: true, Links: []Link{}, Variables: map[string]string{}}

// New returns what a new widget is until somebody says otherwise.
func New(name string, sites []string) Design {
	d := Design{
		Name: name, Sites: sites, Title: "Ask us", Colour: "#2c5474", Corner: "right", Looks: UsualLooks,
		Form: form.Form{
			{Name: form.NameField, Kind: form.Text, Label: "Your name"},
			{Name: form.EmailField, Kind: form.Email, Label: "Email"},
		},
		ReachBy: ByEmail, DraftsSeen: true, VisitorFiles: true, MessageLimit: 2000, AnswerTargetSeconds: 60, GoneSeconds: 60,
		Survey: Survey{On: true},
	}
	d.Tidy()
	return d
}

// Tidy puts what is missing in the place of nothing: an older design, or one that
// was written by hand, may not name everything.
func (d *Design) Tidy() {
	for _, list := range []*[]string{&d.Sites, &d.Languages, &d.ShowOn, &d.HideOn, &d.Departments} {
		if *list == nil {
			*list = []string{}
		}
	}
	if len(d.Languages) == 0 {
		d.Languages = slices.Clone(Shipped)
	}
	if d.Texts == nil {
		d.Texts = Texts{}
	}
	if d.Form == nil {
		d.Form = form.Form{}
	}
	if d.Looks.Size == "" { // from before there were looks
		d.Looks = UsualLooks
	}
	d.Help.tidy()
	d.Helper.tidy()
	d.Automatic = slices.Clone(d.Automatic)
	if d.Automatic == nil {
		d.Automatic = []Automatic{}
	}
	for i := range d.Automatic {
		d.Automatic[i].tidy()
	}
	if d.Looks.Links == nil {
		d.Looks.Links = []Link{}
	}
	if d.Looks.Variables == nil {
		d.Looks.Variables = map[string]string{}
	}
}

// Changed returns which parts differ between two designs, by their names in JSON.
func Changed(before, after Design) []string {
	old, fresh := parts(before), parts(after)
	changed := []string{}
	for _, name := range slices.Sorted(maps.Keys(fresh)) {
		if !bytes.Equal(old[name], fresh[name]) {
			changed = append(changed, name)
		}
	}
	return changed
}

func parts(d Design) map[string]json.RawMessage {
	var out map[string]json.RawMessage
	data, err := json.Marshal(d)
	if err == nil {
		err = json.Unmarshal(data, &out)
	}
	if err != nil {
		return nil // a design is texts, numbers and lists of them: it can always be written
	}
	return out
}
