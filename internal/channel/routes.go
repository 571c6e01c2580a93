package channel

import (
	"context"
	"crypto/subtle"
	"net/http"
	"strings"

	"stoop/core/access"
	"stoop/core/channel"
	"stoop/core/form"
	"stoop/internal/httpapi"
	"stoop/internal/live"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

var errWrongKey = problem.New(http.StatusUnauthorized, "wrong-key", "This key is not known", "Send the key of STOOP_TEXTS_KEY as a bearer token.")

// Measured is how long words are as a text message.
type Measured struct {
	Parts   int    `json:"parts" doc:"In which they are sent"`
	Most    int    `json:"most" doc:"Parts that a message may have"`
	Left    int    `json:"left" doc:"Characters that still fit into the last part"`
	Because string `json:"because,omitempty" doc:"The first character for which a part holds 70 instead of 160"`
}

// Measure returns how long words are as a text message, as they would go out.
func Measure(words string) Measured {
	l := channel.Measure(channel.Plain(words))
	return Measured{Parts: l.Parts, Most: channel.MostParts, Left: l.Left, Because: l.Because}
}

// ChannelView is the lines, with what is connected.
type ChannelView struct {
	settings.ChannelSettings
	Texts bool `json:"texts" doc:"A gateway for text messages is connected"`
	Mail  bool `json:"mail" doc:"Mail is sent and received"`
}

func (room *Room) setup(ctx context.Context, o access.Actor) (v ChannelView, err error) {
	if err := o.Must(access.SetUp); err != nil {
		return v, err
	}
	d, err := settings.ChannelsDocument.Read(ctx, room.Settings.Tables)
	return ChannelView{d, room.Carriers[channel.Text] != nil, room.Carriers[channel.Email] != nil}, err
}

func (room *Room) save(ctx context.Context, o access.Actor, in settings.ChannelSettings) (settings.ChannelSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return in, err
	}
	s, err := room.Settings.Read(ctx)
	if err != nil {
		return in, err
	}
	in.Tidy(s.Tickets.Region)
	out, err := settings.ChannelsDocument.Change(ctx, room.Settings.Tables, func(now *settings.ChannelSettings) error {
		if now.Version != in.Version {
			return store.ErrChanged
		}
		if err := form.Refuse(in.Check(s)); err != nil {
			return err
		}
		*now = in
		return nil
	})
	if err != nil {
		return in, err
	}
	room.Changed()
	return out, nil
}

// Routes implements httpapi.Room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/setup/channels", "channels", "The lines for text messages and mail",
		func(ctx context.Context, o access.Actor, _ *struct{}) (ChannelView, error) { return room.setup(ctx, o) })
	httpapi.Answer(r, http.MethodPut, "/api/setup/channels", "save-channels", "Change the lines",
		func(ctx context.Context, o access.Actor, in *struct{ Body settings.ChannelSettings }) (settings.ChannelSettings, error) {
			return room.save(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodPost, "/api/channels/measure", "measure-text", "How long words are as a text message",
		func(_ context.Context, _ access.Actor, in *struct {
			Body struct {
				Text string `json:"text" maxLength:"20000"`
			}
		}) (Measured, error) {
			return Measure(in.Body.Text), nil
		})
	httpapi.Answer(r, http.MethodPost, "/api/chats/{id}/go-on", "ask-to-go-on", "Ask the visitor to go on by another way",
		func(ctx context.Context, o access.Actor, in *struct {
			ID   string `path:"id"`
			Body struct {
				Kind string `json:"kind" enum:"site,text,email"`
			}
		}) (view.ChatView, error) {
			return room.Ask(ctx, o, in.ID, channel.Kind(in.Body.Kind))
		})
	room.gatewayRoutes(r)
}

// gatewayRoutes are what a gateway of text messages calls.
func (room *Room) gatewayRoutes(r *httpapi.Routes) {
	type nothing struct{}
	httpapi.Register(r, http.MethodPost, "/api/channels/texts", "receive-text", "A text message that came to one of our numbers",
		func(ctx context.Context, in *struct {
			Authorization string `header:"Authorization"`
			Body          struct {
				ID   string `json:"id" minLength:"1" maxLength:"200" doc:"The same id again is the same message"`
				From string `json:"from" maxLength:"40"`
				To   string `json:"to" maxLength:"40"`
				Text string `json:"text" maxLength:"20000"`
			}
		}) (*nothing, error) {
			if err := room.mustBeGateway(in.Authorization); err != nil {
				return nil, err
			}
			return nil, room.ReceiveText(ctx, Incoming{ID: in.Body.ID, From: in.Body.From, To: in.Body.To, Text: in.Body.Text})
		})
	httpapi.Register(r, http.MethodPost, "/api/channels/receipts", "receive-receipt", "What became of a text message of ours",
		func(ctx context.Context, in *struct {
			Authorization string `header:"Authorization"`
			Body          struct {
				ID        string `json:"id" minLength:"1" maxLength:"200" doc:"Under which Stoop handed it over"`
				Delivered bool   `json:"delivered"`
				Why       string `json:"why,omitempty" maxLength:"1000" doc:"It was not, for good"`
			}
		}) (*nothing, error) {
			if err := room.mustBeGateway(in.Authorization); err != nil {
				return nil, err
			}
			return nil, room.Received(ctx, in.Body.ID, in.Body.Delivered, in.Body.Why)
		})
}

func (room *Room) mustBeGateway(authorization string) error {
	key, ok := strings.CutPrefix(authorization, "Bearer ")
	if !ok || room.TextsKey == "" || subtle.ConstantTimeCompare([]byte(key), []byte(room.TextsKey)) != 1 {
		return errWrongKey
	}
	return nil
}

// GoOnCall names a chat and another way.
type GoOnCall struct {
	ChatID string `json:"chatId"`
	Kind   string `json:"kind,omitempty"`
	Email  string `json:"email,omitempty"`
}

// Calls adds what visitors ask over the live connection.
func (room *Room) Calls(c *live.Calls) {
	live.OnVisitorWriting(c, "go-on-code", func(ctx context.Context, v access.Visitor, in GoOnCall) (any, error) {
		return room.Code(ctx, v, in.ChatID)
	})
	live.OnVisitorWriting(c, "go-on-by-mail", func(ctx context.Context, v access.Visitor, in GoOnCall) (any, error) {
		return nil, room.GoOnByMail(ctx, v, in.ChatID, in.Email)
	})
	live.OnVisitorWriting(c, "stay", func(ctx context.Context, v access.Visitor, in GoOnCall) (any, error) {
		return nil, room.Stay(ctx, v, in.ChatID, channel.Kind(in.Kind))
	})
}
