package talk

import (
	"context"
	"errors"
	"mime"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"stoop/core/access"
	"stoop/internal/files"
	"stoop/internal/httpapi"
	"stoop/internal/problem"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/take", "take", "Take a waiting chat",
		func(ctx context.Context, o access.Actor, in *struct {
			ID     string `path:"id"`
			Anyway bool   `query:"anyway" doc:"Take it though it is more than I should hold"`
		}) (view.ChatView, error) {
			return room.Take(ctx, o, in.ID, in.Anyway)
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/say", "say", "Say something in a chat",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id"`
			Body httpapi.Message
		}) (Said, error) {
			return room.OperatorSays(ctx, o, in.ID, in.Body.ClientID, in.Body.Text, nil)
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/cards", "send-card", "Send something of the system outside as a card",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id"`
			Body struct {
				ClientID string `json:"clientId" minLength:"1" maxLength:"64" pattern:"^[0-9A-Za-z-]+$" doc:"Made by the sender; sending again under the same id changes nothing"`
				Kind     string `json:"kind" maxLength:"40"`
				CardID   string `json:"cardId" maxLength:"80"`
			}
		}) (Said, error) {
			return room.SendCard(ctx, o, in.ID, in.Body.ClientID, in.Body.Kind, in.Body.CardID)
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/page", "offer-page", "Offer the visitor a page",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id"`
			Body struct {
				ClientID string `json:"clientId" minLength:"1" maxLength:"64" pattern:"^[0-9A-Za-z-]+$" doc:"Made by the sender; sending again under the same id changes nothing"`
				URL      string `json:"url" maxLength:"4000"`
			}
		}) (view.ChatView, error) {
			return room.OfferPage(ctx, o, in.ID, in.Body.ClientID, in.Body.URL)
		})
	httpapi.Answer(r, http.MethodGet, "/api/chats/{id}/page", "page-at", "What a page is called, and whether a chat's visitor can be shown it",
		func(ctx context.Context, o access.Actor, in *struct {
			ID  string `path:"id"`
			URL string `query:"url" maxLength:"4000"`
		}) (PageFound, error) {
			return room.PageFound(ctx, o, in.ID, in.URL)
		})
	httpapi.Answer(r, http.MethodDelete, "/api/chats/{id}/page/{number}", "end-page", "Show a page no longer, or take its offer back",
		func(ctx context.Context, o access.Actor, in *httpapi.EventPath) (view.ChatView, error) {
			return room.EndPage(ctx, o, in.ID, in.Number)
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/end", "end", "End a chat",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (view.ChatView, error) {
			return room.OperatorEnds(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/hand-on", "hand-on", "Offer a chat to another operator or department",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id"`
			Body struct {
				OperatorID   string `json:"operatorId,omitempty"`
				DepartmentID string `json:"departmentId,omitempty"`
				Note         string `json:"note,omitempty" maxLength:"1000" doc:"For who takes it; the visitor never sees it"`
			}
		}) (view.ChatView, error) {
			return room.HandOn(ctx, o, in.ID, in.Body.OperatorID, in.Body.DepartmentID, in.Body.Note)
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/take-back", "take-back", "Withdraw what I have begun to hand on",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (view.ChatView, error) {
			return room.TakeBack(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/put-back", "put-back", "Return a chat to its queue",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id"`
			Body struct {
				Note string `json:"note,omitempty" maxLength:"1000"`
			}
		}) (view.ChatView, error) {
			return room.PutBack(ctx, o, in.ID, in.Body.Note)
		})
	httpapi.Do(r, http.MethodPost, "/api/chats/{id}/wrap-up", "wrap-up", "End the wrap-up of an ended chat",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) error {
			return room.WrapUp(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodPut, "/api/chats/{id}/colleagues/{operator}", "add-colleague", "Let a colleague speak in a chat",
		func(ctx context.Context, o access.Actor, in *colleaguePath) (view.ChatView, error) {
			return room.Add(ctx, o, in.ID, in.Operator)
		})
	httpapi.Answer(r, http.MethodDelete, "/api/chats/{id}/colleagues/{operator}", "remove-colleague", "Take a colleague out of a chat, or leave it",
		func(ctx context.Context, o access.Actor, in *colleaguePath) (view.ChatView, error) {
			return room.LeaveChat(ctx, o, in.ID, in.Operator)
		})
	httpapi.Do(r, http.MethodPut, "/api/chats/{id}/events/{number}", "correct", "Correct my own words within a minute",
		func(ctx context.Context, o access.Actor, in *struct {
			ID     string `path:"id"`
			Number int64  `path:"number" minimum:"1"`
			Body   struct {
				httpapi.Words
				Translation *view.TranslationView `json:"translation,omitempty" doc:"What the visitor is to read"`
			}
		}) error {
			return room.OperatorCorrects(ctx, o, in.ID, in.Number, in.Body.Text, in.Body.Translation.Translation())
		})
	httpapi.Do(r, http.MethodDelete, "/api/chats/{id}/events/{number}", "withdraw", "Withdraw my own words or file within a minute",
		func(ctx context.Context, o access.Actor, in *httpapi.EventPath) error {
			return room.OperatorWithdraws(ctx, o, in.ID, in.Number)
		})
	type words struct {
		ID   string `path:"id"`
		Body httpapi.Words
	}
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/notes", "note", "Note something that only the team sees",
		func(ctx context.Context, o access.Actor, in *words) (view.ChatView, error) {
			return room.Note(ctx, o, in.ID, in.Body.ClientID, in.Body.Text)
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/whispers", "whisper", "Tell a chat's owner something, as a lead",
		func(ctx context.Context, o access.Actor, in *words) (view.ChatView, error) {
			return room.Whisper(ctx, o, in.ID, in.Body.ClientID, in.Body.Text)
		})
	httpapi.Answer(r, http.MethodPut, "/api/chats/{id}/summary", "summarise", "Put a chat into one line",
		func(ctx context.Context, o access.Actor, in *words) (view.ChatView, error) {
			return room.Summarise(ctx, o, in.ID, in.Body.Text)
		})
	type tag struct {
		ID   string `path:"id"`
		Body struct {
			Tag string `json:"tag" maxLength:"200"`
			On  bool   `json:"on"`
		}
	}
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/tags", "tag", "Put a tag on a chat or take it off",
		func(ctx context.Context, o access.Actor, in *tag) (view.ChatView, error) {
			return room.Tag(ctx, o, in.ID, in.Body.Tag, in.Body.On)
		})
	type outcome struct {
		ID   string `path:"id"`
		Body Conclusion
	}
	httpapi.Answer(r, http.MethodPut, "/api/chats/{id}/outcome", "conclude", "Say how a chat came out",
		func(ctx context.Context, o access.Actor, in *outcome) (view.ChatView, error) {
			return room.Conclude(ctx, o, in.ID, in.Body)
		})
	type aside struct {
		ID   string `path:"id"`
		Body struct {
			Unread bool `json:"unread"`
		}
	}
	httpapi.Answer(r, http.MethodPut, "/api/chats/{id}/unread", "mark-unread", "Mark a chat of mine unread, or read",
		func(ctx context.Context, o access.Actor, in *aside) (view.ChatView, error) {
			return room.SetAside(ctx, o, in.ID, in.Body.Unread)
		})
	type stored struct {
		ID   string `path:"id"`
		Body struct {
			ClientID string `json:"clientId" minLength:"1" maxLength:"64"`
			FileID   string `json:"fileId" format:"uuid"`
		}
	}
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/stored-files", "share-stored", "Share the file of a canned response",
		func(ctx context.Context, o access.Actor, in *stored) (Said, error) {
			return room.ShareStored(ctx, o, in.ID, in.Body.ClientID, in.Body.FileID)
		})
	type call struct {
		ID   string `path:"id"`
		Body struct {
			DepartmentID string `json:"departmentId" format:"uuid"`
			Text         string `json:"text,omitempty" maxLength:"1000"`
		}
	}
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/call", "call-team", "Ask a department for help in a chat",
		func(ctx context.Context, o access.Actor, in *call) (view.ChatView, error) {
			return room.CallTeam(ctx, o, in.ID, in.Body.DepartmentID, in.Body.Text)
		})
	httpapi.Answer(r, http.MethodDelete, "/api/chats/{id}/call", "end-call", "End the call for help",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (view.ChatView, error) {
			return room.EndCall(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/join", "join", "Join a chat whose owner asks for help, or any as a lead",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (view.ChatView, error) {
			return room.Join(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/take-over", "take-over", "Become the owner of a colleague's chat, as a lead",
		func(ctx context.Context, o access.Actor, in *httpapi.ChatPath) (view.ChatView, error) {
			return room.TakeOver(ctx, o, in.ID)
		})
	type watch struct {
		ID   string `path:"id"`
		Body struct {
			On bool `json:"on"`
		}
	}
	httpapi.Answer(r, http.MethodPut, "/api/chats/{id}/watch", "watch", "Read a chat along unseen, as a lead, or stop",
		func(ctx context.Context, o access.Actor, in *watch) (view.ChatView, error) {
			return room.Watch(ctx, o, in.ID, in.Body.On)
		})
	r.Team.Post("/api/chats/{id}/files", func(w http.ResponseWriter, q *http.Request) {
		o, err := r.Operator(q.Context())
		var said Said
		if err == nil {
			said, err = room.OperatorShares(q.Context(), o, chi.URLParam(q, "id"), q.URL.Query().Get("clientId"), claimOf(q), q.Body)
		}
		r.Write(w, q, said, err)
	})
	r.Open.Get("/files/{id}/{name}", func(w http.ResponseWriter, q *http.Request) { room.serveFile(r, w, q) })
	r.Site.With(httpapi.SameOriginOnly).Post("/widget/{key}/admit", func(w http.ResponseWriter, q *http.Request) { room.admit(r, w, q) })
	r.Site.With(httpapi.SameOriginOnly).Post("/widget/{key}/chats/{chat}/files", func(w http.ResponseWriter, q *http.Request) {
		// The visitor's token comes as a bearer token.
		visitor, err := r.Visitor(strings.TrimPrefix(q.Header.Get("Authorization"), "Bearer "))
		var said Said
		if err == nil {
			said, err = room.VisitorShares(q.Context(), visitor, chi.URLParam(q, "chat"), q.URL.Query().Get("clientId"), claimOf(q), q.Body)
		}
		r.Write(w, q, said, err)
	})
}

type colleaguePath struct {
	ID       string `path:"id"`
	Operator string `path:"operator" format:"uuid"`
}

func claimOf(r *http.Request) files.Claim {
	q := r.URL.Query()
	return files.Claim{Name: q.Get("name"), Size: r.ContentLength, Voice: q.Get("voice") != ""}
}

// serveFile serves a shared file: as a download unless it is a plain picture,
// with a policy under which nothing in it can run. Parts can be asked for, so
// that videos can be wound.
func (room *Room) serveFile(r *httpapi.Routes, w http.ResponseWriter, q *http.Request) {
	var asks *access.Actor
	if o, _, err := r.OperatorOf(q); err == nil {
		asks = &o
	}
	query := q.URL.Query()
	f, err := room.OpenFile(q.Context(), asks, chi.URLParam(q, "id"), query.Get("for"), query.Get("small") != "")
	if err != nil {
		r.Fail(w, q, err)
		return
	}
	defer f.Content.Close()
	h := w.Header()
	h.Set("Content-Type", f.Type)
	h.Set("Content-Security-Policy", "sandbox; default-src 'none'; style-src 'unsafe-inline'; media-src 'self'; frame-ancestors 'none'")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Cache-Control", "private, max-age=300")
	h.Set("Referrer-Policy", "no-referrer")
	disposition := "attachment"
	if files.Shown(f.Type) && query.Get("download") == "" {
		disposition = "inline"
	}
	h.Set("Content-Disposition", mime.FormatMediaType(disposition, map[string]string{"filename": f.Name}))
	http.ServeContent(w, q, "", f.CreatedAt, f.Content)
}

// errWidgetOff: a widget was never published, or is switched off.
var errWidgetOff = problem.New(http.StatusGone, "widget-off", "This chat is not here", "It was switched off. Look on the site for another way to reach the team.")

// Admission is what the panel gets to begin with.
type Admission struct {
	Token  string          `json:"token" doc:"Proves who the visitor is; the panel keeps it"`
	Widget view.WidgetView `json:"widget"`
	Resumed
}

// admit lets a visitor in: the one whose token the panel kept, or a new one.
func (room *Room) admit(r *httpapi.Routes, w http.ResponseWriter, q *http.Request) {
	var in struct {
		Token string `json:"token"`
		Back  string `json:"back"`
		// Languages in which the panel may speak, the best first.
		Speaks []string `json:"speaks"`
	}
	if !httpapi.ReadJSON(w, q, &in) {
		return
	}
	out, err := room.admission(r, q, in.Token, in.Back, in.Speaks)
	r.Write(w, q, out, err)
}

func (room *Room) admission(r *httpapi.Routes, q *http.Request, token, back string, speaks []string) (out Admission, err error) {
	ctx := q.Context()
	widget, err := room.Settings.WidgetByKey(ctx, chi.URLParam(q, "key"))
	if err != nil {
		return out, err
	}
	known, proven := "", false
	if v, err := r.Visitor(token); err == nil && v.WidgetID == widget.ID {
		known = v.ID
	}
	if back != "" {
		// A link from a mail leads its reader back, on whatever device.
		if id, of, err := room.Mail.Returning(ctx, back); err == nil && of == widget.ID {
			known, proven = id, true
		}
	}
	if err := room.People.MayEnter(ctx, known, httpapi.AddressOf(q)); err != nil {
		return out, err
	}
	if widget.Off {
		// Whose chat is under way goes on; nobody else is let in.
		if _, err := room.Chats.OpenChatOf(ctx, known, ""); known == "" || errors.Is(err, store.ErrNotFound) {
			return out, errWidgetOff
		} else if err != nil {
			return out, err
		}
	}
	visitor, err := room.Admit(ctx, widget, known, httpapi.AddressOf(q))
	if err != nil {
		return out, err
	}
	if proven {
		if err := room.People.Proven(ctx, visitor.ID); err != nil {
			room.Log.Error("that an email was proven was not noted; the next link proves it again", "visitor", visitor.ID, "error", err)
		}
	}
	if out.Token, err = r.TokenFor(visitor); err != nil {
		return out, err
	}
	if out.Widget, err = room.Floor.WidgetView(ctx, widget, speaks...); err != nil {
		return out, err
	}
	out.Resumed, err = room.Resume(ctx, visitor, "", 0)
	return out, err
}
