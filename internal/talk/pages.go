package talk

import (
	"cmp"
	"context"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/view"
)

// OfferPage offers a chat's visitor a page of its widget's sites, by the title that the team
// gave it or that it has itself.
func (room *Room) OfferPage(ctx context.Context, o access.Actor, chatID, clientID, address string) (view.ChatView, error) {
	c, err := room.Chats.Readable(ctx, o, chatID)
	if err != nil {
		return view.ChatView{}, err
	}
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return view.ChatView{}, err
	}
	by := chat.Operator(o.ID)
	// Whether it is an address at all the chat says better than the site.
	if _, err := c.State.OfferPage(by, clientID, chat.Page{URL: address}, room.Now()); err != nil {
		return view.ChatView{}, err
	}
	if !w.Carries(address) {
		return view.ChatView{}, errNotOnSite
	}
	page := chat.Page{URL: address, Title: room.Library.PageTitle(ctx, address)}
	return room.showing(ctx, chatlog.Act{ChatID: chatID, By: by, ClientID: clientID, Decide: func(s chat.State) ([]chat.Event, error) {
		e, err := s.OfferPage(by, clientID, page, room.Now())
		return []chat.Event{e}, err
	}})
}

// PageFound is what stands at an address.
type PageFound struct {
	Title   string `json:"title"`
	Carried bool   `json:"carried" doc:"It carries the chat: a visitor can be shown it"`
}

// PageFound returns what a page is called that somebody may be about to offer.
func (room *Room) PageFound(ctx context.Context, o access.Actor, chatID, address string) (PageFound, error) {
	c, err := room.Chats.Readable(ctx, o, chatID)
	if err != nil {
		return PageFound{}, err
	}
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil || !w.Carries(address) {
		return PageFound{}, err
	}
	return PageFound{Title: cmp.Or(room.Library.PageTitle(ctx, address), address), Carried: true}, nil
}

// EndPage ends what is shown, or takes an offer back: the visitor's tab goes back where it was,
// if it is still there.
func (room *Room) EndPage(ctx context.Context, o access.Actor, chatID string, number int64) (view.ChatView, error) {
	by := chat.Operator(o.ID)
	return room.showing(ctx, chatlog.Act{ChatID: chatID, By: by, Decide: func(s chat.State) ([]chat.Event, error) {
		return s.EndPage(by, number, room.Now())
	}})
}

func (room *Room) showing(ctx context.Context, act chatlog.Act) (view.ChatView, error) {
	return room.View.After(ctx, room.Chats, act)
}

// What visitors say of a page that is offered or shown.
const (
	pageYes  = "yes"
	pageNo   = "no"
	pageAt   = "at" // where the tab is now that it is shown in
	pageBack = "back"
)

// PageCall is a visitor's word on a page that the team shows.
type PageCall struct {
	ChatID string `json:"chatId"`
	Number int64  `json:"number"`
	How    string `json:"how"`
	URL    string `json:"url,omitempty"` // where they are
}

// VisitorOnPage takes a visitor's word on a page. A page that the widget does not allow any
// more is not gone to.
func (room *Room) VisitorOnPage(ctx context.Context, v access.Visitor, in PageCall) error {
	by := v.Party()
	if in.How == pageYes {
		c, err := room.Chats.Chat(ctx, in.ChatID)
		if err != nil {
			return err
		}
		w, err := room.Settings.Widget(ctx, c.WidgetID)
		if err != nil {
			return err
		}
		if p := c.State.Showing; p != nil && !w.Carries(p.URL) {
			return errNotOnSite
		}
	}
	_, err := room.Chats.Append(ctx, chatlog.Act{ChatID: in.ChatID, By: by, Decide: func(s chat.State) ([]chat.Event, error) {
		switch in.How {
		case pageYes, pageNo:
			return s.AnswerPage(by, in.Number, in.How == pageYes, in.URL, room.Now())
		case pageAt:
			return s.PageAt(by, in.Number, in.URL, room.Now()), nil
		case pageBack:
			return s.EndPage(by, in.Number, room.Now())
		}
		return nil, chat.ErrNotThat
	}})
	return err
}
