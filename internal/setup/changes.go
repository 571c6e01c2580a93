package setup

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"time"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/core/spreadsheet"
	"stoop/internal/setup/settings"
)

// ChangeView is one thing of the set-up that was changed.
type ChangeView struct {
	ID      int64         `json:"id"`
	At      time.Time     `json:"at"`
	By      string        `json:"by" doc:"Name of who did it; empty for a command, or Stoop itself"`
	ByID    string        `json:"byId,omitempty"`
	Kind    string        `json:"kind" doc:"Of thing, such as widget or department"`
	ThingID string        `json:"thingId"`
	Name    string        `json:"name" doc:"Of the thing, as it was called"`
	Act     string        `json:"act" enum:"made,changed,removed"`
	Parts   []ChangedPart `json:"parts" doc:"What differs, at most 200 parts"`
}

// ChangedPart is one value that differs.
type ChangedPart struct {
	Path   string `json:"path" doc:"Where it stands in the thing, with points between"`
	Before string `json:"before,omitempty"`
	After  string `json:"after,omitempty"`
}

// ChangePage is a page of changes.
type ChangePage struct {
	Changes []ChangeView `json:"changes"`
	More    bool         `json:"more" doc:"There are earlier ones"`
	Kinds   []string     `json:"kinds" doc:"Of things that there are"`
}

// ChangesAsked says which changes are asked for.
type ChangesAsked struct {
	Kind   string `query:"kind" maxLength:"60"`
	Thing  string `query:"thing" maxLength:"100"`
	By     string `query:"by" format:"uuid" doc:"Id of an operator"`
	From   string `query:"from" maxLength:"40" doc:"RFC 3339"`
	To     string `query:"to" maxLength:"40" doc:"RFC 3339"`
	Before int64  `query:"before" doc:"An id, for the page behind it"`
}

// Bounds of what is shown and handed out.
const (
	changesAtOnce = 50
	changesInFile = 20_000
	bytesInFile   = 30 << 20
	partsMost     = 200
	valueMost     = 500 // code points of a value
)

// kinds are the things that changes are noted of.
var kinds = []string{"acting", "department", "desk", "hours", "invitations", "person", "retention", "review_form", settings.RulesThing, "site", "site_data", "tickets", "widget"}

func (a ChangesAsked) like() (settings.ChangesLike, error) {
	like := settings.ChangesLike{Kind: a.Kind, ThingID: a.Thing, ByID: a.By, Before: a.Before, Limit: changesAtOnce + 1}
	for text, into := range map[*string]**time.Time{&a.From: &like.From, &a.To: &like.To} {
		if *text == "" {
			continue
		}
		at, err := time.Parse(time.RFC3339, *text)
		if err != nil {
			return like, form.Refuse([]form.Wrong{{Field: "from", Words: "A time must be like 2026-12-24T18:30:00Z."}})
		}
		*into = &at
	}
	return like, nil
}

// Changes returns who changed what of the set-up, the newest first.
func (room *Room) Changes(ctx context.Context, o access.Actor, asked ChangesAsked) (ChangePage, error) {
	if err := o.Must(access.SetUp); err != nil {
		return ChangePage{}, err
	}
	like, err := asked.like()
	if err != nil {
		return ChangePage{}, err
	}
	list, err := room.Settings.Tables.Changes(ctx, like)
	if err != nil {
		return ChangePage{}, err
	}
	page := ChangePage{Changes: []ChangeView{}, More: len(list) > changesAtOnce, Kinds: kinds}
	for _, c := range list[:min(len(list), changesAtOnce)] {
		page.Changes = append(page.Changes, room.changeView(c))
	}
	return page, nil
}

func (room *Room) changeView(c settings.Change) ChangeView {
	v := ChangeView{ID: c.ID, At: c.At, By: room.nameOf(c.ByID), Kind: c.Kind, ThingID: c.ThingID, Name: c.Name, Act: "changed", Parts: Parts(c.Before, c.After)}
	if c.ByID != nil {
		v.ByID = *c.ByID
	}
	switch {
	case c.Before == nil:
		v.Act = "made"
	case c.After == nil:
		v.Act = "removed"
	}
	return v
}

// secret are the parts whose values nobody reads: that they changed is all.
const secret = "password"

// Parts returns what differs between two states of a thing, by where it stands.
func Parts(before, after json.RawMessage) []ChangedPart {
	old, fresh := map[string]string{}, map[string]string{}
	flatten(before, old)
	flatten(after, fresh)
	paths := maps.Clone(old)
	maps.Copy(paths, fresh)
	parts := []ChangedPart{}
	for _, path := range slices.Sorted(maps.Keys(paths)) {
		if old[path] == fresh[path] || len(parts) == partsMost {
			continue
		}
		part := ChangedPart{Path: path, Before: old[path], After: fresh[path]}
		if path == secret {
			part.Before, part.After = "…", "…"
		}
		parts = append(parts, part)
	}
	return parts
}

func flatten(data json.RawMessage, into map[string]string) {
	if len(data) == 0 {
		return
	}
	var value any
	decoder := json.NewDecoder(bytes.NewReader(data))
	decoder.UseNumber()
	if decoder.Decode(&value) != nil {
		return // it was written by us; what cannot be read has no parts to show
	}
	walk("", value, into)
}

func walk(path string, value any, into map[string]string) {
	under := func(name string) string {
		if path == "" {
			return name
		}
		return path + "." + name
	}
	switch v := value.(type) {
	case map[string]any:
		for name, inner := range v {
			walk(under(name), inner, into)
		}
	case []any:
		if text, plain := joined(v); plain {
			into[path] = shortened(text)
			return
		}
		for i, inner := range v {
			walk(under(strconv.Itoa(i+1)), inner, into)
		}
	case nil:
	default:
		if text := shortened(fmt.Sprint(v)); text != "" {
			into[path] = text
		}
	}
}

func shortened(text string) string {
	if runes := []rune(text); len(runes) > valueMost {
		return string(runes[:valueMost]) + "…"
	}
	return text
}

// joined returns a list of plain values as one text.
func joined(list []any) (string, bool) {
	text := ""
	for i, v := range list {
		switch v.(type) {
		case map[string]any, []any:
			return "", false
		}
		if i > 0 {
			text += ", "
		}
		text += fmt.Sprint(v)
	}
	return text, true
}

// ExportChanges writes changes as CSV, one line for each value that differs.
func (room *Room) ExportChanges(ctx context.Context, o access.Actor, asked ChangesAsked) ([]byte, error) {
	if err := o.Must(access.SetUp); err != nil {
		return nil, err
	}
	like, err := asked.like()
	if err != nil {
		return nil, err
	}
	var file bytes.Buffer
	columns := []string{"at", "by", "kind", "name", "act", "part", "before", "after"}
	if err := spreadsheet.Write(&file, columns, nil); err != nil {
		return nil, fmt.Errorf("writing changes: %w", err)
	}
	// Page by page: a change may hold two whole designs.
	like.Limit = changesAtOnce
	for seen := 0; seen < changesInFile && file.Len() < bytesInFile; seen += changesAtOnce {
		list, err := room.Settings.Tables.Changes(ctx, like)
		if err != nil {
			return nil, err
		}
		var rows [][]string
		for _, c := range list {
			v := room.changeView(c)
			like.Before = c.ID
			for _, part := range v.Parts {
				rows = append(rows, []string{v.At.In(room.Zone).Format(time.RFC3339), v.By, v.Kind, v.Name, v.Act, part.Path, part.Before, part.After})
			}
		}
		if err := spreadsheet.WriteLines(&file, rows); err != nil {
			return nil, fmt.Errorf("writing changes: %w", err)
		}
		if len(list) < changesAtOnce {
			break
		}
	}
	return file.Bytes(), nil
}
