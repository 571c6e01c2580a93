package setup

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/visit"
	"stoop/internal/setup/settings"
)

// WidgetSettings are what an admin says of the chat on a site.
type WidgetSettings struct {
	Key            string   `json:"key"`
	Version        int64    `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Name           string   `json:"name"`
	Sites          []string `json:"sites"`
	Title          string   `json:"title" doc:"What the launcher says"`
	Greeting       string   `json:"greeting" doc:"Before a chat, while somebody is in"`
	ClosedGreeting string   `json:"closedGreeting" doc:"Before a message, while nobody is"`
	HideClosed     bool     `json:"hideClosed"`
	DraftsSeen     bool     `json:"draftsSeen" doc:"The team sees what a visitor is typing; the visitor is told so"`
	VisitorFiles   bool     `json:"visitorFiles" doc:"Visitors may send files"`
	MessageLimit   int      `json:"messageLimit" doc:"Longest message, in characters"`
	ShowOn         []string `json:"showOn" doc:"Patterns of pages on which it is shown; empty for all"`
	HideOn         []string `json:"hideOn" doc:"Patterns of pages on which it is not"`

	Survey settings.Survey `json:"survey"`
}

func widgetSettings(w settings.Widget) WidgetSettings {
	return WidgetSettings{
		Key: w.Key, Version: w.Version, Name: w.Name, Sites: append([]string{}, w.Sites...), Title: w.Title, Greeting: w.Greeting, ClosedGreeting: w.ClosedGreeting,
		HideClosed: w.HideClosed, DraftsSeen: w.DraftsSeen, VisitorFiles: w.VisitorFiles, MessageLimit: w.MessageLimit,
		ShowOn: append([]string{}, w.ShowOn...), HideOn: append([]string{}, w.HideOn...),
		Survey: w.Survey,
	}
}

// WidgetsSetup returns all widgets with their settings.
func (room *Room) WidgetsSetup(ctx context.Context, o access.Actor) ([]WidgetSettings, error) {
	if err := mustAdmin(o); err != nil {
		return nil, err
	}
	all, err := room.Settings.Tables.Widgets(ctx)
	list := make([]WidgetSettings, len(all))
	for i, w := range all {
		list[i] = widgetSettings(w)
	}
	return list, err
}

// SaveWidget changes a widget; open pages follow within seconds.
func (room *Room) SaveWidget(ctx context.Context, o access.Actor, in WidgetSettings) (WidgetSettings, error) {
	if err := mustAdmin(o); err != nil {
		return in, err
	}
	w, err := room.Settings.Tables.WidgetByKey(ctx, in.Key)
	if err != nil {
		return in, err
	}
	w.Version = in.Version
	w.Title, w.Greeting, w.ClosedGreeting = chat.CleanLine(in.Title, 60), lines(in.Greeting), lines(in.ClosedGreeting)
	w.HideClosed, w.DraftsSeen, w.VisitorFiles, w.MessageLimit = in.HideClosed, in.DraftsSeen, in.VisitorFiles, in.MessageLimit
	w.ShowOn, w.HideOn = settings.TidyLines(in.ShowOn, visit.PatternLength+1), settings.TidyLines(in.HideOn, visit.PatternLength+1)
	w.Survey = in.Survey
	w.Survey.Question, w.Survey.WordsQuestion = chat.CleanLine(in.Survey.Question, questionLimit), chat.CleanLine(in.Survey.WordsQuestion, questionLimit)
	if err := form.Refuse(w.Check()); err != nil {
		return in, err
	}
	saved, err := room.Settings.Tables.ChangeWidget(ctx, w)
	if err != nil {
		return in, err
	}
	room.Changed()
	return widgetSettings(saved), nil
}

// questionLimit bounds a question of a survey, in code points.
const questionLimit = 120

// greetingLimit bounds a greeting, in code points.
const greetingLimit = 500

// lines returns words of several lines as they are stored; none at all is fine.
func lines(words string) string {
	text, err := chat.CleanWords(words, 10*greetingLimit)
	if err != nil {
		return ""
	}
	return string([]rune(text)[:min(len([]rune(text)), greetingLimit)])
}
