package httpapi

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"stoop/core/access"
	"stoop/internal/app"
)

type eventPath struct {
	ID     string `path:"id"`
	Number int64  `path:"number" minimum:"1"`
}

// Words that stand beside a chat.
type Words struct {
	ClientID string `json:"clientId,omitempty" maxLength:"64" doc:"Made by the sender; sending again under the same id changes nothing"`
	Text     string `json:"text" maxLength:"20000"`
}

// changed answers an act with the chat as it is then.
func changed[I any](s *server, do func(context.Context, access.Actor, *I) (app.ChatView, error)) func(context.Context, *I) (*body[app.ChatView], error) {
	return asOperator(s, func(ctx context.Context, o access.Actor, in *I) (*body[app.ChatView], error) {
		view, err := do(ctx, o, in)
		return &body[app.ChatView]{Body: view}, err
	})
}

// listed answers with what an operator asked for.
func listed[I, T any](s *server, do func(context.Context, access.Actor, *I) (T, error)) func(context.Context, *I) (*body[T], error) {
	return asOperator(s, func(ctx context.Context, o access.Actor, in *I) (*body[T], error) {
		got, err := do(ctx, o, in)
		return &body[T]{Body: got}, err
	})
}

// done answers an act that has nothing to say.
func done[I any](s *server, do func(context.Context, access.Actor, *I) error) func(context.Context, *I) (*nothing, error) {
	return asOperator(s, func(ctx context.Context, o access.Actor, in *I) (*nothing, error) { return nil, do(ctx, o, in) })
}

// asideOperations are what the team does in and beside a chat.
func (s *server) asideOperations(api huma.API) {
	type words struct {
		ID   string `path:"id"`
		Body Words
	}
	register(s, api, http.MethodPut, "/api/chats/{id}/events/{number}", "correct", "Correct my own words within a minute",
		done(s, func(ctx context.Context, o access.Actor, in *struct {
			ID     string `path:"id"`
			Number int64  `path:"number" minimum:"1"`
			Body   Words
		}) error {
			return s.App.OperatorCorrects(ctx, o, in.ID, in.Number, in.Body.Text)
		}))
	register(s, api, http.MethodDelete, "/api/chats/{id}/events/{number}", "withdraw", "Withdraw my own words or file within a minute",
		done(s, func(ctx context.Context, o access.Actor, in *eventPath) error {
			return s.App.OperatorWithdraws(ctx, o, in.ID, in.Number)
		}))
	register(s, api, http.MethodPost, "/api/chats/{id}/notes", "note", "Note something that only the team sees",
		changed(s, func(ctx context.Context, o access.Actor, in *words) (app.ChatView, error) {
			return s.App.Note(ctx, o, in.ID, in.Body.ClientID, in.Body.Text)
		}))
	register(s, api, http.MethodPost, "/api/chats/{id}/whispers", "whisper", "Tell a chat's owner something, as a lead",
		changed(s, func(ctx context.Context, o access.Actor, in *words) (app.ChatView, error) {
			return s.App.Whisper(ctx, o, in.ID, in.Body.ClientID, in.Body.Text)
		}))
	register(s, api, http.MethodPut, "/api/chats/{id}/summary", "summarise", "Put a chat into one line",
		changed(s, func(ctx context.Context, o access.Actor, in *words) (app.ChatView, error) {
			return s.App.Summarise(ctx, o, in.ID, in.Body.Text)
		}))
	type tag struct {
		ID   string `path:"id"`
		Body struct {
			Tag string `json:"tag" maxLength:"200"`
			On  bool   `json:"on"`
		}
	}
	register(s, api, http.MethodPost, "/api/chats/{id}/tags", "tag", "Put a tag on a chat or take it off",
		changed(s, func(ctx context.Context, o access.Actor, in *tag) (app.ChatView, error) {
			return s.App.Tag(ctx, o, in.ID, in.Body.Tag, in.Body.On)
		}))
	type outcome struct {
		ID   string `path:"id"`
		Body app.Conclusion
	}
	register(s, api, http.MethodPut, "/api/chats/{id}/outcome", "conclude", "Say how a chat came out",
		changed(s, func(ctx context.Context, o access.Actor, in *outcome) (app.ChatView, error) {
			return s.App.Conclude(ctx, o, in.ID, in.Body)
		}))
	type aside struct {
		ID   string `path:"id"`
		Body struct {
			Unread bool `json:"unread"`
		}
	}
	register(s, api, http.MethodPut, "/api/chats/{id}/unread", "mark-unread", "Mark a chat of mine unread, or read",
		changed(s, func(ctx context.Context, o access.Actor, in *aside) (app.ChatView, error) {
			return s.App.SetAside(ctx, o, in.ID, in.Body.Unread)
		}))
	type stored struct {
		ID   string `path:"id"`
		Body struct {
			ClientID string `json:"clientId" minLength:"1" maxLength:"64"`
			FileID   string `json:"fileId" format:"uuid"`
		}
	}
	register(s, api, http.MethodPost, "/api/chats/{id}/stored-files", "share-stored", "Share the file of a canned response",
		listed(s, func(ctx context.Context, o access.Actor, in *stored) (app.Said, error) {
			return s.App.ShareStored(ctx, o, in.ID, in.Body.ClientID, in.Body.FileID)
		}))
}

// togetherOperations are those by which several of the team are in a chat.
func (s *server) togetherOperations(api huma.API) {
	type call struct {
		ID   string `path:"id"`
		Body struct {
			DepartmentID string `json:"departmentId" format:"uuid"`
			Text         string `json:"text,omitempty" maxLength:"1000"`
		}
	}
	register(s, api, http.MethodPost, "/api/chats/{id}/call", "call-team", "Ask a department for help in a chat",
		changed(s, func(ctx context.Context, o access.Actor, in *call) (app.ChatView, error) {
			return s.App.CallTeam(ctx, o, in.ID, in.Body.DepartmentID, in.Body.Text)
		}))
	register(s, api, http.MethodDelete, "/api/chats/{id}/call", "end-call", "End the call for help",
		changed(s, func(ctx context.Context, o access.Actor, in *chatPath) (app.ChatView, error) {
			return s.App.EndCall(ctx, o, in.ID)
		}))
	register(s, api, http.MethodPost, "/api/chats/{id}/join", "join", "Join a chat whose owner asks for help, or any as a lead",
		changed(s, func(ctx context.Context, o access.Actor, in *chatPath) (app.ChatView, error) {
			return s.App.Join(ctx, o, in.ID)
		}))
	register(s, api, http.MethodPost, "/api/chats/{id}/take-over", "take-over", "Become the owner of a colleague's chat, as a lead",
		changed(s, func(ctx context.Context, o access.Actor, in *chatPath) (app.ChatView, error) {
			return s.App.TakeOver(ctx, o, in.ID)
		}))
	type watch struct {
		ID   string `path:"id"`
		Body struct {
			On bool `json:"on"`
		}
	}
	register(s, api, http.MethodPut, "/api/chats/{id}/watch", "watch", "Read a chat along unseen, as a lead, or stop",
		changed(s, func(ctx context.Context, o access.Actor, in *watch) (app.ChatView, error) {
			return s.App.Watch(ctx, o, in.ID, in.Body.On)
		}))
	register(s, api, http.MethodGet, "/api/rooms", "rooms", "My rooms of the team talk",
		listed(s, func(ctx context.Context, o access.Actor, _ *nothing) ([]app.RoomView, error) {
			return s.App.Rooms(ctx, o)
		}))
	type room struct {
		Body struct {
			Name    string   `json:"name,omitempty" maxLength:"200" doc:"Empty with one other person"`
			Members []string `json:"members" doc:"Ids; none: everybody"`
		}
	}
	register(s, api, http.MethodPost, "/api/rooms", "make-room", "Open a room",
		listed(s, func(ctx context.Context, o access.Actor, in *room) (app.RoomView, error) {
			return s.App.MakeRoom(ctx, o, in.Body.Name, in.Body.Members)
		}))
	register(s, api, http.MethodDelete, "/api/rooms/{id}/me", "leave-room", "Leave a room",
		done(s, func(ctx context.Context, o access.Actor, in *idPath) error { return s.App.LeaveRoom(ctx, o, in.ID) }))
	type talkBefore struct {
		ID     string `path:"id" format:"uuid"`
		Before int64  `query:"before" minimum:"0" doc:"Messages before this id; 0 for the newest"`
	}
	register(s, api, http.MethodGet, "/api/rooms/{id}/messages", "talk-in", "Messages of a room",
		listed(s, func(ctx context.Context, o access.Actor, in *talkBefore) ([]app.TalkView, error) {
			return s.App.TalkIn(ctx, o, in.ID, in.Before)
		}))
	type talk struct {
		ID   string `path:"id" format:"uuid"`
		Body Message
	}
	register(s, api, http.MethodPost, "/api/rooms/{id}/messages", "talk", "Write in a room",
		listed(s, func(ctx context.Context, o access.Actor, in *talk) (app.TalkView, error) {
			return s.App.Talk(ctx, o, in.ID, in.Body.ClientID, in.Body.Text)
		}))
	type seen struct {
		ID   string `path:"id" format:"uuid"`
		Body struct {
			UpTo int64 `json:"upTo" minimum:"0"`
		}
	}
	register(s, api, http.MethodPut, "/api/rooms/{id}/seen", "see-talk", "Note how far I have read a room",
		done(s, func(ctx context.Context, o access.Actor, in *seen) error {
			return s.App.SeeTalk(ctx, o, in.ID, in.Body.UpTo)
		}))
}

// aboutOperations concern the person behind a chat.
func (s *server) aboutOperations(api huma.API) {
	register(s, api, http.MethodGet, "/api/chats/{id}/about", "about", "What is known of the person behind a chat",
		listed(s, func(ctx context.Context, o access.Actor, in *chatPath) (app.AboutView, error) {
			return s.App.About(ctx, o, in.ID)
		}))
	type contact struct {
		ID   string `path:"id"`
		Body app.ContactView
	}
	register(s, api, http.MethodPut, "/api/chats/{id}/contact", "save-contact", "Change the contact behind a chat",
		listed(s, func(ctx context.Context, o access.Actor, in *contact) (app.ContactView, error) {
			return s.App.SaveContact(ctx, o, in.ID, in.Body)
		}))
	type words struct {
		ID   string `path:"id"`
		Body Words
	}
	register(s, api, http.MethodPost, "/api/chats/{id}/contact/notes", "add-contact-note", "Note something about the contact behind a chat",
		done(s, func(ctx context.Context, o access.Actor, in *words) error {
			return s.App.AddContactNote(ctx, o, in.ID, in.Body.Text)
		}))
	register(s, api, http.MethodDelete, "/api/contact-notes/{id}", "remove-contact-note", "Delete a note of mine",
		done(s, func(ctx context.Context, o access.Actor, in *idPath) error {
			return s.App.RemoveContactNote(ctx, o, in.ID)
		}))
	register(s, api, http.MethodPost, "/api/bans", "ban", "Shut a visitor or a network out",
		done(s, func(ctx context.Context, o access.Actor, in *body[app.BanOrder]) error {
			return s.App.Ban(ctx, o, in.Body)
		}))
	register(s, api, http.MethodGet, "/api/bans", "bans", "Who is shut out",
		listed(s, func(ctx context.Context, o access.Actor, _ *nothing) ([]app.BanView, error) {
			return s.App.Bans(ctx, o)
		}))
	register(s, api, http.MethodDelete, "/api/bans/{id}", "lift-ban", "Let somebody in again",
		done(s, func(ctx context.Context, o access.Actor, in *idPath) error { return s.App.LiftBan(ctx, o, in.ID) }))
	register(s, api, http.MethodPatch, "/api/me/preferences", "set-preferences", "Change how I want my console",
		done(s, func(ctx context.Context, o access.Actor, in *body[app.Preferences]) error {
			return s.App.SetPreferences(ctx, o, in.Body)
		}))
}

// libraryOperations concern canned responses and articles.
func (s *server) libraryOperations(api huma.API) {
	register(s, api, http.MethodGet, "/api/canned", "canned", "The canned responses that I may use",
		listed(s, func(ctx context.Context, o access.Actor, _ *nothing) ([]app.CannedView, error) {
			return s.App.Canned(ctx, o)
		}))
	register(s, api, http.MethodPut, "/api/canned", "save-canned", "Make or change a canned response",
		listed(s, func(ctx context.Context, o access.Actor, in *body[app.CannedView]) (app.CannedView, error) {
			return s.App.SaveCanned(ctx, o, in.Body)
		}))
	register(s, api, http.MethodDelete, "/api/canned/{id}", "remove-canned", "Delete a canned response",
		done(s, func(ctx context.Context, o access.Actor, in *idPath) error {
			return s.App.RemoveCanned(ctx, o, in.ID)
		}))
	type file struct {
		Apply bool `query:"apply" doc:"Store what the file adds and changes; else only say what it would do"`
		Body  struct {
			CSV string `json:"csv" maxLength:"8000000"`
		}
	}
	registerLarge(s, api, http.MethodPost, "/api/canned/import", "import-canned", "Compare a CSV file with the canned responses, or take it in",
		listed(s, func(ctx context.Context, o access.Actor, in *file) (app.ImportView, error) {
			return s.App.ImportCanned(ctx, o, []byte(in.Body.CSV), in.Apply)
		}))
	type search struct {
		Words string `query:"words" maxLength:"200"`
	}
	register(s, api, http.MethodGet, "/api/articles", "articles", "Search the articles, or list them",
		listed(s, func(ctx context.Context, _ access.Actor, in *search) ([]app.ArticleView, error) {
			return s.App.Articles(ctx, in.Words)
		}))
	register(s, api, http.MethodGet, "/api/articles/{id}", "article", "An article",
		listed(s, func(ctx context.Context, _ access.Actor, in *idPath) (app.ArticleView, error) {
			return s.App.Article(ctx, in.ID)
		}))
	register(s, api, http.MethodPut, "/api/articles", "save-article", "Make or change an article",
		listed(s, func(ctx context.Context, o access.Actor, in *body[app.ArticleView]) (app.ArticleView, error) {
			return s.App.SaveArticle(ctx, o, in.Body)
		}))
	register(s, api, http.MethodDelete, "/api/articles/{id}", "remove-article", "Delete an article",
		done(s, func(ctx context.Context, o access.Actor, in *idPath) error {
			return s.App.RemoveArticle(ctx, o, in.ID)
		}))
	register(s, api, http.MethodGet, "/api/setup/desk", "desk-settings", "Settings of every Desk",
		listed(s, func(ctx context.Context, o access.Actor, _ *nothing) (app.DeskSettings, error) {
			return s.App.DeskSetup(ctx, o)
		}))
	register(s, api, http.MethodPut, "/api/setup/desk", "save-desk-settings", "Change the settings of every Desk",
		listed(s, func(ctx context.Context, o access.Actor, in *body[app.DeskSettings]) (app.DeskSettings, error) {
			return s.App.SaveDeskSetup(ctx, o, in.Body)
		}))
	register(s, api, http.MethodGet, "/api/setup/widgets", "widgets", "The chats on sites, with their settings",
		listed(s, func(ctx context.Context, o access.Actor, _ *nothing) ([]app.WidgetSettings, error) {
			return s.App.WidgetsSetup(ctx, o)
		}))
	register(s, api, http.MethodPut, "/api/setup/widgets", "save-widget", "Change the chat on a site",
		listed(s, func(ctx context.Context, o access.Actor, in *body[app.WidgetSettings]) (app.WidgetSettings, error) {
			return s.App.SaveWidget(ctx, o, in.Body)
		}))
}
