package server

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"strconv"
	"sync"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	corechannel "stoop/core/channel"
	"stoop/core/chat"
	"stoop/internal/account"
	"stoop/internal/acting"
	"stoop/internal/again"
	"stoop/internal/alerts"
	"stoop/internal/along"
	"stoop/internal/carrier"
	"stoop/internal/channel"
	"stoop/internal/chatlog"
	"stoop/internal/delivery"
	"stoop/internal/desk"
	"stoop/internal/facts"
	"stoop/internal/feedback"
	"stoop/internal/fetch"
	"stoop/internal/files"
	"stoop/internal/floor"
	"stoop/internal/helper"
	"stoop/internal/hooks"
	"stoop/internal/httpapi"
	"stoop/internal/jobs"
	"stoop/internal/keys"
	"stoop/internal/library"
	"stoop/internal/live"
	"stoop/internal/mail"
	"stoop/internal/mailing"
	"stoop/internal/notice"
	"stoop/internal/outside"
	"stoop/internal/people"
	"stoop/internal/people/register"
	"stoop/internal/places"
	"stoop/internal/pushes"
	"stoop/internal/reports"
	"stoop/internal/retention"
	"stoop/internal/reviews"
	"stoop/internal/setup"
	"stoop/internal/setup/settings"
	"stoop/internal/signing"
	"stoop/internal/site"
	"stoop/internal/site/guests"
	"stoop/internal/site/visits"
	"stoop/internal/staffing"
	"stoop/internal/store"
	"stoop/internal/talk"
	"stoop/internal/teamtalk"
	"stoop/internal/tickets"
	"stoop/internal/transcripts"
	"stoop/internal/translate"
	"stoop/internal/view"
)

// Live is all that the rooms ask of the hub; each states its own part.
type Live interface {
	live.Sender
	// Near sends to the browsers of this server alone.
	Near() live.Sender
	// Shared reports whether what is sent reaches the browsers of all servers.
	Shared() bool
	// OnGap calls tell when what other servers sent since a time may not have come.
	OnGap(tell func(since time.Time))
	Reconnect(operatorID string)
	Close(visitorID string)
	Here(chat.Party) bool
}

// HouseConfig of a House. Now and Zone have defaults: the system's clock, and
// UTC.
type HouseConfig struct {
	Store *store.Store
	// Replica is where searches and reports read; without it from Store.
	Replica *store.Replica
	Live    Live
	Log     *slog.Logger
	Now     func() time.Time
	Zone    *time.Location // in which a day begins for the team
	// Mail sends to visitors; without it nothing is sent.
	Mail mail.Sender
	// Files keeps the contents of what people send each other.
	Files files.Store
	// Outside is the system outside, with the company's customers and goods; nil: there
	// is none.
	Outside outside.System
	// Wording words the helper's answers from passages of articles; nil: these are said as
	// they are.
	Wording library.Wording
	// Translator translates chats; nil: there is none.
	Translator translate.Translator
	// Telephone rings customers; nil: operators call by themselves.
	Telephone tickets.Telephone
	// Texts sends text messages; nil: none are sent.
	Texts carrier.Carrier
	// TextsKey is what a gateway of text messages says to be one.
	TextsKey string
	// Places tells where visitors are; nil: nobody knows.
	Places *places.Table
	// Secret signs addresses of files, and those in mails.
	Secret []byte
	// URL under which visitors reach Stoop, for links in mails.
	URL string
	// Fetch gets pages of sites, to look for the snippet on them.
	Fetch fetch.Client
	// ReplyDomain is the part behind the @ of addresses that answers go to.
	ReplyDomain string
	// Grace is how long an operator without a connection keeps their chats.
	Grace time.Duration
}

// House is the rooms of a server, put together: each gets of the others what it
// states as an interface.
type House struct {
	Chats       *chatlog.Log
	Settings    *settings.Cache
	View        *view.Views
	Account     account.Room
	Acting      acting.Room
	Alerts      alerts.Room
	Along       along.Room
	Channel     channel.Room
	Delivery    delivery.Room
	Desk        desk.Room
	Floor       floor.Room
	Helper      helper.Room
	Hooks       hooks.Room
	Keys        keys.Room
	Library     library.Room
	Mailing     mailing.Room
	Outside     outside.Room
	Feedback    feedback.Room
	People      people.Room
	Pushes      pushes.Room
	Reports     reports.Room
	Retention   retention.Room
	Reviews     reviews.Room
	Setup       setup.Room
	Site        site.Room
	Staffing    staffing.Room
	Talk        talk.Room
	TeamTalk    teamtalk.Room
	Tickets     tickets.Room
	Transcripts transcripts.Room
	Translate   translate.Room

	config  HouseConfig
	jobs    *jobs.Queue
	notices *notice.Board
	stop    context.CancelFunc
	running sync.WaitGroup
}

// NewHouse puts the rooms of a server together. Close it before the store.
func NewHouse(c HouseConfig) (*House, error) {
	if c.Files == nil {
		return nil, errors.New("the house has no place for files: set Files")
	}
	if c.Now == nil {
		c.Now = time.Now
	}
	if c.Zone == nil {
		c.Zone = time.UTC
	}
	if c.Log == nil {
		c.Log = slog.New(slog.DiscardHandler)
	}
	if c.Replica == nil {
		c.Replica = &store.Replica{Primary: c.Store, Log: c.Log}
	}
	c.Store.Node = uuid.NewString()
	h := &House{config: c, stop: func() {}, notices: &notice.Board{Store: c.Store, Log: c.Log}}
	h.Settings = &settings.Cache{Tables: settings.On(c.Store)}
	h.View = &view.Views{Settings: h.Settings, Key: c.Secret, Live: c.Live, Waits: &h.Floor, Booking: c.Outside != nil, Mail: c.Mail != nil}
	h.Chats = chatlog.New(c.Store, h.Delivery.Ready)
	h.Chats.OnMarks = h.Delivery.MarksStored
	h.furnish(c)
	h.Account.Prepare()
	h.Acting.Prepare()
	h.Alerts.Prepare()
	h.Along.Prepare()
	h.Channel.Prepare()
	h.Delivery.Prepare()
	h.Floor.Prepare()
	h.Helper.Prepare()
	h.Hooks.Prepare()
	h.Library.Prepare()
	h.Mailing.Prepare()
	h.Outside.Prepare()
	h.Pushes.Prepare()
	h.Retention.Prepare()
	h.People.Prepare()
	h.Site.Prepare()
	h.Talk.Prepare()
	h.Tickets.Prepare()
	h.Translate.Prepare()
	h.notices.On(store.SettingsChanged, func(context.Context, string) { h.settingsChanged() })
	h.notices.OnMissed(func(context.Context) {
		h.Talk.ForgetTags()
		h.settingsChanged()
	})
	h.notices.On(gapNotice, func(_ context.Context, since string) {
		if seconds, err := strconv.ParseInt(since, 10, 64); err == nil {
			h.missed(time.Unix(seconds, 0))
		}
	})
	c.Live.OnGap(func(since time.Time) {
		h.missed(since)
		h.notices.Tell(context.Background(), fmt.Sprint(gapNotice, " ", since.Unix()))
	})
	workers := jobs.NewWorkers()
	h.Mailing.Workers(workers)
	h.Pushes.Workers(workers)
	var err error
	h.jobs, err = jobs.New(c.Store.Pool(), workers, c.Log)
	h.Mailing.Jobs, h.Pushes.Jobs = h.jobs, h.jobs
	return h, err
}

// furnish gives each room what it needs.
func (h *House) furnish(c HouseConfig) {
	known, seen, named, key := register.On(c.Store), visits.Tables{Store: c.Store, Here: &h.Site}, files.On(c.Store), signing.Key(c.Secret)
	h.Account = account.Room{
		Settings: h.Settings, Live: c.Live, Floor: &h.Floor, Post: &h.Mailing, Key: c.Secret, URL: c.URL, Changed: h.settingsChanged, Log: c.Log, Now: c.Now,
	}
	h.Acting = acting.Room{
		Tables: acting.On(c.Store), Chats: h.Chats, Settings: h.Settings, View: h.View, Floor: &h.Floor, Tickets: &h.Tickets, Post: &h.Mailing, Hooks: &h.Hooks,
		Log: c.Log, Now: c.Now, Zone: c.Zone, URL: c.URL, Changed: h.settingsChanged,
	}
	h.Alerts = alerts.Room{Tables: alerts.On(c.Store), Settings: h.Settings, Floor: &h.Floor, Post: &h.Mailing, Notices: h.notices, Near: c.Live.Near(), Log: c.Log, Now: c.Now}
	h.Along = along.Room{Tables: along.On(c.Store), Chats: h.Chats, Settings: h.Settings, View: h.View, Live: c.Live, Log: c.Log, Now: c.Now}
	h.Channel = channel.Room{
		Tables: channel.On(c.Store), Chats: h.Chats, Settings: h.Settings, View: h.View, Register: known, Carriers: h.carriers(c), Talk: &h.Talk, People: &h.People, Live: c.Live, Post: &h.Mailing,
		Key: key, TextsKey: c.TextsKey, Log: c.Log, Now: c.Now, Changed: h.settingsChanged,
	}
	h.Delivery = delivery.Room{Chats: h.Chats, Settings: h.Settings, View: h.View, Notices: h.notices, Live: c.Live, Near: c.Live.Near(), Shared: c.Live.Shared(), Floor: &h.Floor, Log: c.Log}
	h.Desk = desk.Room{Tables: desk.On(c.Store), Chats: h.Chats, Settings: h.Settings, View: h.View, Visits: seen, Floor: &h.Floor, People: &h.People, Now: c.Now, Zone: c.Zone}
	h.Floor = floor.Room{
		Tables: floor.On(c.Store), Chats: h.Chats, Settings: h.Settings, View: h.View, Register: known, Visits: seen, Facts: facts.On(c.Store), Notices: h.notices,
		Live: c.Live, Near: c.Live.Near(), Delivery: &h.Delivery, Talk: &h.Talk, Site: &h.Site, Log: c.Log, Now: c.Now, Zone: c.Zone, Grace: c.Grace, Node: c.Store.Node,
	}
	h.Keys = keys.Room{Tables: keys.On(c.Store), Settings: h.Settings, Now: c.Now}
	h.Library = library.Room{
		Tables: library.On(c.Store), Chats: h.Chats, Settings: h.Settings, Visits: seen, Files: named, Contents: c.Files,
		Notices: h.notices, Live: c.Live, Near: c.Live.Near(), People: &h.People, Wording: c.Wording, Fetch: c.Fetch, Log: c.Log, Now: c.Now, URL: c.URL,
	}
	h.Helper = helper.Room{
		Tables: helper.On(c.Store), Chats: h.Chats, Settings: h.Settings, View: h.View, Register: known, Floor: &h.Floor, Library: &h.Library, Outside: &h.Outside,
		Log: c.Log, Now: c.Now, Changed: h.settingsChanged,
	}
	h.Hooks = hooks.Room{Tables: hooks.On(c.Store), Chats: h.Chats, Settings: h.Settings, View: h.View, Fetch: c.Fetch, Log: c.Log, Now: c.Now}
	h.Mailing = mailing.Room{
		Chats: h.Chats, Settings: h.Settings, Mail: c.Mail, Live: c.Live, Talk: &h.Talk, People: &h.People, Alerts: &h.Alerts, Tickets: &h.Tickets, Channels: &h.Channel, Files: named, Contents: c.Files, Key: key,
		Log: c.Log, Now: c.Now, Zone: c.Zone, URL: c.URL, ReplyDomain: c.ReplyDomain,
	}
	h.People = people.Room{
		Tables: people.On(c.Store), Chats: h.Chats, Settings: h.Settings, Register: known, Visits: seen, Files: named, Notices: h.notices, Live: c.Live, Talk: &h.Talk, Outside: &h.Outside, Now: c.Now,
	}
	h.Pushes = pushes.Room{Tables: pushes.On(c.Store), Settings: h.Settings, Floor: &h.Floor, Alerts: &h.Alerts, Fetch: c.Fetch, URL: c.URL, MailDomain: c.ReplyDomain, Log: c.Log, Now: c.Now}
	h.Outside = outside.Room{System: c.Outside, Settings: h.Settings, Register: known, People: &h.People, Log: c.Log}
	h.Setup = setup.Room{
		Tables: setup.On(c.Store), Settings: h.Settings, Register: known, Replica: c.Replica, Live: c.Live, Floor: &h.Floor, Library: &h.Library, Log: c.Log, Now: c.Now, Zone: c.Zone, Changed: h.settingsChanged,
		Post: &h.Mailing, Fetch: c.Fetch, URL: c.URL, Booking: c.Outside != nil,
	}
	h.Site = site.Room{
		Visits: seen, Guests: guests.New(), Register: known, Chats: h.Chats, Settings: h.Settings, View: h.View, Places: c.Places,
		Live: c.Live, Near: c.Live.Near(), Floor: &h.Floor, People: &h.People, Log: c.Log, Now: c.Now, Zone: c.Zone, Node: c.Store.Node,
	}
	h.Talk = talk.Room{
		Tables: talk.On(c.Store), Chats: h.Chats, Settings: h.Settings, View: h.View, Register: known, Files: named, Contents: c.Files, Key: key,
		Live: c.Live, Floor: &h.Floor, People: &h.People, Site: &h.Site, Mail: &h.Mailing, Library: &h.Library, Outside: &h.Outside, Helper: &h.Helper, Translator: &h.Translate, Log: c.Log, Now: c.Now,
	}
	h.Translate = translate.Room{Tables: translate.On(c.Store), Chats: h.Chats, Settings: h.Settings, View: h.View, Translator: c.Translator, Log: c.Log, Now: c.Now}
	h.TeamTalk = teamtalk.Room{Tables: teamtalk.On(c.Store), Settings: h.Settings, Live: c.Live, Now: c.Now}
	h.Feedback = feedback.Room{Tables: feedback.On(c.Store), Chats: h.Chats, Settings: h.Settings, View: h.View, People: &h.People, Now: c.Now, Zone: c.Zone}
	h.Reports = reports.Room{Facts: facts.On(c.Store), Replica: c.Replica, Settings: h.Settings, Post: &h.Mailing, Log: c.Log, Now: c.Now, Zone: c.Zone}
	h.Retention = retention.Room{
		Tables: retention.On(c.Store), Settings: h.Settings, Chats: h.Chats, Register: known, Visits: seen, Files: named, Contents: c.Files, Transcripts: &h.Transcripts, People: &h.People, Tickets: &h.Tickets, Channels: h.Channel.Tables,
		Notices: h.notices, Log: c.Log, Now: c.Now, Zone: c.Zone,
	}
	h.Reviews = reviews.Room{Tables: reviews.On(c.Store), Chats: h.Chats, Settings: h.Settings, View: h.View, Transcripts: &h.Transcripts, Live: c.Live, Now: c.Now}
	h.Staffing = staffing.Room{Tables: staffing.On(c.Store), Replica: c.Replica, Settings: h.Settings, Now: c.Now, Zone: c.Zone}
	h.Tickets = tickets.Room{
		Tables: tickets.On(c.Store), Replica: c.Replica, Chats: h.Chats, Settings: h.Settings, View: h.View, Live: c.Live, Post: &h.Mailing, People: &h.People, Telephone: c.Telephone, Log: c.Log, Now: c.Now, Zone: c.Zone,
	}
	h.Transcripts = transcripts.Room{
		Tables: transcripts.On(c.Store), Facts: facts.On(c.Store), Replica: c.Replica, Settings: h.Settings, View: h.View, Contents: c.Files, Post: &h.Mailing, Log: c.Log, Now: c.Now, Zone: c.Zone,
	}
}

// carriers are what words go out by beside the site.
func (h *House) carriers(c HouseConfig) map[corechannel.Kind]carrier.Carrier {
	by := map[corechannel.Kind]carrier.Carrier{}
	if c.Texts != nil {
		by[corechannel.Text] = c.Texts
	}
	if c.Mail != nil {
		by[corechannel.Email] = mailing.Carrier{Room: &h.Mailing}
	}
	return by
}

// rooms are those with routes, in the order of the OpenAPI document.
func (h *House) rooms() []httpapi.Room {
	return []httpapi.Room{&h.Account, &h.Floor, &h.Alerts, &h.Desk, &h.Talk, &h.Transcripts, &h.TeamTalk, &h.People, &h.Library, &h.Setup, &h.Helper, &h.Site, &h.Outside, &h.Feedback, &h.Reports, &h.Staffing, &h.Retention, &h.Reviews, &h.Translate, &h.Along, &h.Hooks, &h.Tickets, &h.Keys, &h.Pushes, &h.Acting, &h.Channel}
}

// calls are what browsers may ask over the live connection.
func (h *House) calls() *live.Calls {
	c := &live.Calls{}
	h.Talk.Calls(c)
	h.Library.Calls(c)
	h.Helper.Calls(c)
	h.Site.Calls(c)
	h.Along.Calls(c)
	h.Channel.Calls(c)
	return c
}

// gapNotice is the notice that browsers of other servers may have missed what this
// one sent since a time, in Unix seconds.
const gapNotice = "gap"

// missed tells this server's browsers what they may have missed since a time.
func (h *House) missed(since time.Time) {
	h.Delivery.Missed(since)
	h.config.Live.Near().ToTeam(view.Refresh{Type: "refresh"})
}

// settingsChanged reads the settings anew and lets every console do so.
//
// Each server tells its own browsers: they must not ask one that has not heard
// of it yet.
func (h *House) settingsChanged() {
	h.Settings.Forget()
	h.config.Live.Near().ToTeam(view.Refresh{Type: "refresh"})
	h.Floor.Kick()
}

// Start begins what goes on by itself: handing out chats, time-outs, telling
// other servers that this one lives.
func (h *House) Start(ctx context.Context) error {
	ctx, h.stop = context.WithCancel(context.WithoutCancel(ctx))
	if err := h.Settings.Tables.EnsureDocuments(ctx); err != nil {
		return err
	}
	if err := h.Chats.BeginFeed(ctx); err != nil {
		return err
	}
	if err := h.Floor.Arrive(ctx); err != nil {
		return err
	}
	if err := h.jobs.Start(ctx); err != nil {
		return err
	}
	for _, run := range []func(context.Context){h.Floor.Run, h.Delivery.Run, h.Site.Run, h.Transcripts.Run, h.Reports.Run, h.Alerts.Run, h.Retention.Run, h.Library.Run, h.Helper.Run, h.Translate.Run, h.Hooks.Run, h.Pushes.Run, h.Acting.Run, h.Channel.Run, h.config.Replica.Run, h.sweepFiles, h.mendRows, h.notices.Listen} {
		h.running.Go(func() { run(ctx) })
	}
	for _, follower := range []chatlog.Follower{facts.Follower(h.Settings, h.config.Log), h.Transcripts.Index(), h.Mailing.MessagesLeft(), h.Mailing.Surveys(), h.Hooks.Follower(), h.Acting.Follower(), h.Channel.Follower()} {
		h.running.Go(func() { h.Chats.Follow(ctx, h.config.Log, follower) })
	}
	return nil
}

// mendEvery is how often it is looked for what a server has said that died.
const mendEvery = 5 * time.Second

func (h *House) mendRows(ctx context.Context) {
	again.Every(ctx, mendEvery, func() {
		again.InTime(ctx, h.config.Log, "letting chats follow what was said in them", h.Chats.Mend)
	})
}

func (h *House) sweepFiles(ctx context.Context) {
	again.Every(ctx, files.SweptEvery, func() {
		again.InTime(ctx, h.config.Log, "files that nobody needs", func(ctx context.Context) error {
			return files.Sweep(ctx, files.On(h.config.Store), h.config.Files)
		})
	})
}

// Close finishes the acts that were begun.
func (h *House) Close() {
	h.Floor.Leaving()
	h.stop()
	h.running.Wait()
	ctx, cancel := context.WithTimeout(context.Background(), stopWithin)
	defer cancel()
	if err := h.jobs.Stop(ctx); err != nil {
		h.config.Log.Warn("jobs were still at work; another server does them again", "error", err)
	}
	h.Outside.Close()
	h.Chats.Close()
	h.Site.Close(ctx)
	h.Floor.Close(ctx)
}

// Actor implements live.House.
func (h *House) Actor(ctx context.Context, id string) (access.Actor, error) {
	return h.Settings.Actor(ctx, id)
}

// MayEnter implements live.House.
func (h *House) MayEnter(ctx context.Context, visitorID, address string) error {
	return h.People.MayEnter(ctx, visitorID, address)
}

// Connected implements live.House.
func (h *House) Connected(ctx context.Context, connectionID string, p chat.Party, stays func() bool) {
	h.Floor.Connected(ctx, connectionID, p, stays)
}

// Disconnected implements live.House.
func (h *House) Disconnected(ctx context.Context, connectionID string, p chat.Party) {
	h.Floor.Disconnected(ctx, connectionID, p)
}

// Document returns the OpenAPI document of all that browsers use as JSON.
func Document() ([]byte, error) {
	h := &House{}
	return httpapi.Document(h.rooms(),
		delivery.ChatMoved{}, delivery.VisitorChatMoved{}, delivery.ChatGone{}, delivery.MarksMoved{}, talk.DraftShown{}, talk.TypingShown{}, site.PlaceChanged{}, site.SiteMoved{}, site.Look{}, site.Answer{}, site.InvitedNow{}, site.SaidOfVisitor{}, outside.Looking{},
		floor.TeamChanged{}, view.WidgetState{}, floor.WaitMoved{}, view.Refresh{}, floor.FloorMoved{}, along.AlongPart{}, along.Wish{}, hooks.WebhookMessage{}, hooks.RuleMessage{}, floor.SetAway{}, alerts.AlertsMoved{}, reviews.ReviewsMoved{},
		tickets.TicketsMoved{}, tickets.OwnTicket{}, tickets.CallTimes{}, teamtalk.Talked{}, teamtalk.RoomsMoved{}, library.LibraryMoved{}, view.WidgetChanged{}, library.Suggestion{}, library.HelpView{}, library.ReadView{}, talk.Opened{}, talk.Admission{}, channel.CodeShown{}, channel.GoOnCall{})
}
