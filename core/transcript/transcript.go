// Package transcript says what was finally said in a chat, for each reader: as
// corrected, without what was withdrawn, and without what is not for them.
package transcript

import (
	"slices"

	"stoop/core/chat"
	"stoop/core/search"
)

// Reader is for whom a transcript is.
type Reader int

// The readers.
const (
	Visitor Reader = iota
	Operator
	Lead
)

// Inside is the kind of what is left of an event that a reader may not know: its
// place in the log and its time. Numbers stay without gaps.
const Inside chat.Kind = "inside"

// may reports whether a reader learns of events of a kind.
func (r Reader) may(k chat.Kind) bool {
	switch r {
	case Lead:
		return k.Hearers() >= chat.LeadsHear
	case Operator:
		return k.Hearers() >= chat.TeamHears
	}
	return k.Hearers() >= chat.AllHear
}

// For returns some events of a chat as a reader may know them; s is the state of
// the whole log.
//
// A visitor's words that were withdrawn are nobody's any more; of what the team
// withdrew, and of files that the visitor refused, the team keeps what it said.
// Corrections among the events are applied for the visitor; the team sees words
// and corrections beside each other.
func For(r Reader, s chat.State, events []chat.Event) []chat.Event {
	out := make([]chat.Event, len(events))
	corrected := corrections(events)
	for i, e := range events {
		switch {
		case !r.may(e.Kind):
			e = chat.Event{Number: e.Number, Kind: Inside, At: e.At, By: chat.Party{Side: chat.HouseSide}}
		case slices.Contains(s.TakenBack, e.Number) && (r == Visitor || e.By.Side == chat.VisitorSide):
			e = without(e)
		case e.Kind == chat.Translated && slices.Contains(s.TakenBack, e.UpTo):
			e = without(e)
		case e.Kind == chat.Corrected && slices.Contains(s.TakenBack, e.UpTo) && (r == Visitor || e.By.Side == chat.VisitorSide):
			e = without(e)
		case r == Visitor:
			if c, ok := corrected[e.Number]; ok {
				e = as(c, e)
			}
		}
		if r == Visitor {
			e = forVisitor(e)
		}
		out[i] = e
	}
	return out
}

// forVisitor leaves out of an event what concerns the team alone.
func forVisitor(e chat.Event) chat.Event {
	if e.Kind == chat.WasPutBack {
		e.Text = ""
	}
	if e.Detail == nil {
		return e
	}
	d := *e.Detail
	d.Until, d.Reasons, d.Live = nil, nil, false
	if t := d.Translation; t != nil { // what the translator did not know is for the team
		d.Translation = &chat.Translation{Language: t.Language, Text: t.Text}
	}
	if t := d.Translating; t != nil {
		d.Translating = &chat.Translating{Theirs: t.Theirs, Ours: t.Ours}
	}
	if e.Kind != chat.CardUsed && e.Kind != chat.PageMoved && e.Kind != chat.AlongMoved && e.Kind != chat.ChannelMoved { // what they did themselves, or came of it
		d.How = ""
	}
	if d.Over != nil { // by which line, and whether they stopped it, is for the team
		d.Over = &chat.Way{Kind: d.Over.Kind}
	}
	if d.Ticket != nil { // what the team calls it is for the team
		d.Ticket = &chat.TicketRef{Number: d.Ticket.Number}
	}
	if d.Helper != nil { // which flow it is, and how sure it was, is for the team
		h := chat.HelperDetail{Choices: d.Helper.Choices, Beside: d.Helper.Beside}
		if a := d.Helper.Article; a != nil {
			h.Article = &chat.HelperArticle{ID: a.ID, Title: a.Title}
		}
		d.Helper = &h
	}
	if e.Kind == chat.WasPutBack || d.Why == chat.Banned {
		d.Why = ""
	}
	e.Detail = &d
	return e
}

// without returns an event without its words in either language, its file and its card.
func without(e chat.Event) chat.Event {
	e.Text = ""
	if e.Detail != nil && (e.Detail.File != nil || e.Detail.Card != nil || e.Detail.Translation != nil) {
		d := *e.Detail
		d.File, d.Card, d.Translation = nil, nil, nil
		e.Detail = &d
	}
	return e
}

// corrections returns the last correction of each of some words, by their number.
func corrections(events []chat.Event) map[int64]chat.Event {
	last := map[int64]chat.Event{}
	for _, e := range events {
		if e.Kind == chat.Corrected {
			last[e.UpTo] = e
		}
	}
	return last
}

// as returns words as a correction says them, with its translation or with none.
func as(correction, e chat.Event) chat.Event {
	e.Text = correction.Text
	var d chat.Detail
	if e.Detail != nil {
		d = *e.Detail
	}
	d.Translation = nil
	if correction.Detail != nil {
		d.Translation = correction.Detail.Translation
	}
	if e.Detail != nil || d.Translation != nil {
		e.Detail = &d
	}
	return e
}

// Translations returns the visitor's words as the team reads them, by their numbers: the last
// translation of each that stands, and none of words that were taken back.
func Translations(s chat.State, log []chat.Event) map[int64]chat.Translation {
	list := map[int64]chat.Translation{}
	for _, e := range log {
		switch {
		case slices.Contains(s.TakenBack, e.UpTo):
		case e.Kind == chat.Corrected:
			delete(list, e.UpTo) // it was of other words
		case e.Kind == chat.Translated && e.Detail != nil && e.Detail.Translation != nil && e.Detail.Translation.Text != "":
			list[e.UpTo] = *e.Detail.Translation
		}
	}
	return list
}

// Translation returns words in the language of who did not say them, if they stand in a
// second one: the team's as the visitor reads them, the visitor's by Translations.
func Translation(e chat.Event, ofVisitor map[int64]chat.Translation) (chat.Translation, bool) {
	if e.Detail != nil && e.Detail.Translation != nil {
		return *e.Detail.Translation, true
	}
	t, ok := ofVisitor[e.Number]
	return t, ok
}

// Said returns what either side said or shared up to a number, as it stands at
// the end of the log: corrected, and without what was withdrawn or refused.
func Said(s chat.State, log []chat.Event, upTo int64) []chat.Event {
	corrected := corrections(log)
	var said []chat.Event
	for _, e := range log {
		if e.Kind != chat.Said && e.Kind != chat.Shared || e.Number > upTo || slices.Contains(s.TakenBack, e.Number) {
			continue
		}
		if c, ok := corrected[e.Number]; ok {
			e = as(c, e)
		}
		said = append(said, e)
	}
	return said
}

// Texts returns what a chat is found by: by what name and email its visitor goes, what
// was finally said in it, names of files, and what the team noted and summed up.
// Whispers are between two people and are not found.
func Texts(s chat.State, log []chat.Event) []search.Text {
	var texts []search.Text
	add := func(w search.Weight, text string) {
		if text != "" {
			texts = append(texts, search.Text{Weight: w, Text: text})
		}
	}
	for _, e := range log {
		if e.Intro != nil {
			add(search.Named, e.Intro.Name)
			add(search.Named, e.Intro.Email)
			add(search.Named, e.Intro.Phone)
		}
	}
	translated := Translations(s, log)
	for _, e := range Said(s, log, s.Last) {
		if e.Kind == chat.Shared {
			add(search.Filed, e.Detail.File.Name)
		}
		add(search.Said, e.Text)
		if t, ok := Translation(e, translated); ok {
			add(search.Said, t.Text)
		}
	}
	for _, e := range log {
		if e.Kind == chat.Noted || e.Kind == chat.Rated {
			add(search.Noted, e.Text)
		}
	}
	add(search.Noted, s.Summary)
	return texts
}

// TextsChange are the kinds of events that may change what an ended chat is found by.
var TextsChange = []chat.Kind{chat.Ended, chat.Named, chat.Refused, chat.Noted, chat.Rated, chat.Summarised, chat.Translated}
