package library

import (
	"context"
	"strings"

	"stoop/core/access"
	"stoop/core/canned"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// Suggestion is a response that fits what is being typed, filled for the chat.
type Suggestion struct {
	ID       string          `json:"id"`
	Shortcut string          `json:"shortcut"`
	Text     string          `json:"text" doc:"With values in the place of placeholders"`
	Match    string          `json:"match" doc:"The end of the typed text that it replaces"`
	Missing  []string        `json:"missing,omitempty" doc:"Placeholders that have neither value nor fallback"`
	Scope    string          `json:"scope" enum:"own,department,common"`
	Folder   string          `json:"folder,omitempty"`
	Language string          `json:"language,omitempty"`
	Files    []view.FileView `json:"files,omitempty"`
}

// suggestMost bounds how many responses are suggested while typing, and listMost
// how many the full list shows.
const (
	suggestMost = 5
	listMost    = 200
)

// Suggest returns the responses that fit what an operator types in a chat. With
// all, it is a search in those that they may use.
func (room *Room) Suggest(ctx context.Context, o access.Actor, chatID, typed string, all bool) ([]Suggestion, error) {
	c, err := room.Chats.Readable(ctx, o, chatID)
	if err != nil {
		return nil, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, err
	}
	l, err := room.library(ctx)
	if err != nil {
		return nil, err
	}
	used, err := room.cannedUses(ctx)
	if err != nil {
		return nil, err
	}
	reader := readerOf(o, used)
	reader.Department, reader.Language = c.State.Department, c.Language
	var hits []canned.Hit
	if all {
		hits = l.Find(typed, reader, listMost)
	} else {
		hits = l.Suggest(typed, reader, suggestMost)
	}
	if len(hits) == 0 {
		return []Suggestion{}, nil
	}
	value, err := room.placeholders(ctx, o, c, s)
	if err != nil {
		return nil, err
	}
	out := make([]Suggestion, len(hits))
	for i, h := range hits {
		out[i] = Suggestion{ID: h.ID, Shortcut: h.Shortcut, Match: h.Match, Scope: string(h.Scope), Folder: h.Folder, Language: h.Language, Files: l.fileViews(h.ID)}
		out[i].Text, out[i].Missing = canned.Fill(h.Text, value)
	}
	return out, nil
}

// placeholders returns the values that a chat has for placeholders.
func (room *Room) placeholders(ctx context.Context, o access.Actor, c chatlog.Chat, s *settings.Settings) (func(string) string, error) {
	visits, err := room.Visits.LatestVisits(ctx, []string{c.VisitorID})
	if err != nil {
		return nil, err
	}
	visit := visits[c.VisitorID]
	values := map[string]string{
		"visitor.name": c.Name, "visitor.first": firstWord(c.Name), "visitor.email": c.Email,
		"operator.name": o.Name, "operator.first": firstWord(o.Name),
		"page.title": visit.PageTitle, "page.url": visit.PageURL, "department.name": s.Departments[c.State.Department].Name,
	}
	for name, answer := range c.Answers {
		values["form."+name] = answer
	}
	return func(name string) string { return values[name] }, nil
}

func firstWord(s string) string {
	first, _, _ := strings.Cut(strings.TrimSpace(s), " ")
	return first
}

func readerOf(o access.Actor, used uses) canned.Reader {
	return canned.Reader{Operator: o.ID, Uses: used.of[o.ID], Departments: o.Departments}
}
