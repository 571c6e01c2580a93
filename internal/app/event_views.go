package app

import (
	"context"
	"slices"
	"time"

	"stoop/core/chat"
	"stoop/internal/store"
)

// EventView is one entry of a chat's log as browsers get it.
type EventView struct {
	Number   int64     `json:"number" doc:"Place in the chat's log: 1, 2, 3 … without gaps"`
	Kind     string    `json:"kind" enum:"started,said,taken,delivered,seen,ended,routed,overflowed,offered,passed,handed-on,returned,put-back,kept,wrapped-up,joined,left,shared,refused,corrected,withdrawn,noted,whispered,tagged,untagged,summarised,concluded,named,set-aside,picked-up,called,call-over,watched,unwatched,reminded,inside" doc:"What happened; inside for what only the team may know"`
	At       time.Time `json:"at"`
	Side     string    `json:"side" enum:"visitor,team,house" doc:"Which side did it; house is Stoop itself"`
	By       string    `json:"by" doc:"Id of who did it; empty for operators when a visitor reads it"`
	Name     string    `json:"name" doc:"Name of who did it, as shown"`
	ClientID string    `json:"clientId,omitempty" doc:"The id under which its sender sent it"`
	Text     string    `json:"text,omitempty"`
	UpTo     int64     `json:"upTo,omitempty" doc:"For delivered and seen: the last event covered; for corrected, withdrawn and refused: the event concerned"`
	Ending   string    `json:"ending,omitempty" enum:"answered,missed,message"`
	Page     string    `json:"page,omitempty" doc:"For started: title or address of the page"`

	To      string       `json:"to,omitempty" doc:"Whom it concerns: name of an operator or a department"`
	Until   *time.Time   `json:"until,omitempty"`
	How     string       `json:"how,omitempty" enum:"assigned,took-over,stepped-in,answering" doc:"For taken and joined"`
	Why     string       `json:"why,omitempty" enum:"declined,unanswered,taken-back,owner-gone,visitor-gone,silent,banned"`
	Reasons []ReasonView `json:"reasons,omitempty" doc:"Why routing did it; the interface puts the codes into words"`
	Live    bool         `json:"live,omitempty" doc:"For routed: a message became a live chat"`

	ChangeableUntil *time.Time `json:"changeableUntil,omitempty" doc:"For words and files: until when their sender may correct or withdraw them"`

	File    *FileView `json:"file,omitempty" doc:"For shared; missing when it is not for this reader any more"`
	Tag     string    `json:"tag,omitempty"`
	Outcome string    `json:"outcome,omitempty"`
	Sale    *SaleView `json:"sale,omitempty"`
}

func (a *App) eventViews(c store.Chat, events []chat.Event) []EventView {
	views := make([]EventView, len(events))
	for i, e := range events {
		v := EventView{
			Number: e.Number, Kind: string(e.Kind), At: e.At, Side: string(e.By.Side), By: e.By.ID,
			ClientID: e.ClientID, Text: e.Text, UpTo: e.UpTo, Ending: string(e.Ending),
		}
		switch e.By.Side {
		case chat.TeamSide:
			v.Name = a.operatorName(e.By.ID)
		case chat.VisitorSide:
			v.Name = c.Name
		}
		if e.Intro != nil {
			if v.Page = e.Intro.PageTitle; v.Page == "" {
				v.Page = e.Intro.PageURL
			}
		}
		if d := e.Detail; d != nil {
			v.Until, v.How, v.Why, v.Live, v.Reasons = d.Until, d.How, d.Why, d.Live, reasonViews(d.Reasons)
			v.To = a.nameOf(d)
			v.Tag, v.Outcome, v.Sale = d.Tag, d.Outcome, saleView(d.Sale)
			if d.File != nil {
				v.File = fileView(*d.File)
			}
		}
		if e.Kind == chat.Said || e.Kind == chat.Shared {
			until := e.At.Add(chat.CorrectWithin)
			v.ChangeableUntil = &until
		}
		if e.By.Side == chat.VisitorSide && slices.Contains(c.State.TakenBack, e.Number) {
			v.Text, v.File = "", nil // what a visitor withdrew is nobody's any more
		}
		views[i] = v
	}
	return views
}

// nameOf returns the name of whom an event concerns.
func (a *App) nameOf(d *chat.Detail) string {
	if d.Department != "" {
		ctx, cancel := context.WithTimeout(context.Background(), tellTimeout)
		defer cancel()
		department, err := a.department(ctx, d.Department)
		if err != nil {
			return "a deleted department"
		}
		return department.Name
	}
	if d.Operator != "" {
		return a.operatorName(d.Operator)
	}
	return ""
}

// forVisitor takes out what only the team may know, and what was withdrawn or
// refused. Numbers stay without gaps: what is hidden leaves an empty place.
func (a *App) forVisitor(c store.Chat, views []EventView) []EventView {
	out := make([]EventView, len(views))
	corrected := map[int64]string{}
	for _, v := range views {
		if v.Kind == string(chat.Corrected) {
			corrected[v.UpTo] = v.Text
		}
	}
	for i, v := range views {
		if !visitorSees(chat.Kind(v.Kind)) {
			out[i] = inside(v)
			continue
		}
		if v.Side != string(chat.VisitorSide) {
			v.By, v.ChangeableUntil = "", nil
		}
		v.Until, v.Reasons, v.How, v.Live = nil, nil, "", false
		if v.Kind == string(chat.WasPutBack) {
			v.Text, v.Why = "", ""
		}
		if v.Why == chat.Banned {
			v.Why = ""
		}
		if text, ok := corrected[v.Number]; ok {
			v.Text = text
		}
		if slices.Contains(c.State.TakenBack, v.Number) {
			v.Text, v.File = "", nil
		}
		if v.File != nil {
			v.File = a.signed(*v.File)
		}
		out[i] = v
	}
	return out
}

// visitorSees reports whether a visitor learns of events of a kind. Whatever is
// not named here stays with the team.
func visitorSees(kind chat.Kind) bool {
	switch kind {
	case chat.Started, chat.Said, chat.Taken, chat.Delivered, chat.Seen, chat.Ended, chat.WasPutBack, chat.KeptAsMessage,
		chat.Joined, chat.Left, chat.Shared, chat.Refused, chat.Corrected, chat.Withdrawn, chat.Reminded:
		return true
	}
	return false
}

// inside is what is left of an event that a reader may not know.
func inside(v EventView) EventView {
	return EventView{Number: v.Number, Kind: "inside", At: v.At, Side: string(chat.HouseSide)}
}

// forOperators hides who watches: leads do so unseen.
func forOperators(views []EventView) []EventView {
	out := slices.Clone(views)
	for i, v := range out {
		if v.Kind == string(chat.Watched) || v.Kind == string(chat.Unwatched) {
			out[i] = inside(v)
		}
	}
	return out
}
