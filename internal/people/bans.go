package people

import (
	"context"
	"errors"
	"fmt"
	"net/netip"
	"slices"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
)

// BanView is a ban as leads and admins see it.
type BanView struct {
	ID        string     `json:"id"`
	Name      string     `json:"name" doc:"The visitor's, as it was then"`
	Network   string     `json:"network,omitempty" doc:"Empty: one visitor"`
	Reason    string     `json:"reason"`
	By        string     `json:"by"`
	CreatedAt time.Time  `json:"createdAt"`
	Until     *time.Time `json:"until,omitempty" doc:"Missing: until it is lifted"`
	LiftedAt  *time.Time `json:"liftedAt,omitempty"`
	Holds     bool       `json:"holds" doc:"Whether it shuts somebody out now"`
}

// BanOrder says whom to ban, and for how long.
type BanOrder struct {
	ChatID  string `json:"chatId,omitempty" doc:"Whose visitor; or give a network"`
	Network string `json:"network,omitempty" doc:"An address or a range like 192.0.2.0/24"`
	Reason  string `json:"reason"`
	Hours   int    `json:"hours" minimum:"0" maximum:"87600" doc:"0: until it is lifted"`
}

// The widest networks that can be banned at once, in bits: more would shut out
// whole countries by a slip.
const (
	widestIPv4 = 16
	widestIPv6 = 32
)

// Ban shuts a visitor or a network out and ends their open chats. Operators may
// ban the visitors of their own chats; networks are for leads.
func (room *Room) Ban(ctx context.Context, o access.Actor, in BanOrder) error {
	b := Ban{ID: uuid.NewString(), Reason: chat.CleanLine(in.Reason, 300), ByID: o.ID, CreatedAt: room.Now()}
	if b.Reason == "" {
		return form.Refuse([]form.Wrong{{Field: "reason", Words: "Enter a reason, for colleagues who read it later."}})
	}
	if in.Hours > 0 {
		until := b.CreatedAt.Add(time.Duration(in.Hours) * time.Hour)
		b.Until = &until
	}
	if in.Network != "" {
		if !o.May(access.BanNetworks) {
			return access.ErrNotAllowed
		}
		network, wrong := networkOf(in.Network)
		if wrong != "" {
			return form.Refuse([]form.Wrong{{Field: "network", Words: wrong}})
		}
		b.Network = &network
	} else {
		c, err := room.Chats.Chat(ctx, in.ChatID)
		if err != nil {
			return err
		}
		if c.State.Owner != o.ID && !o.May(access.BanAnyVisitor) {
			return chat.ErrNotYours
		}
		b.VisitorID, b.Name = &c.VisitorID, c.Name
	}
	if err := room.Tables.AddBan(ctx, b); err != nil {
		return err
	}
	room.bansChanged(ctx)
	open, err := room.openChatsFrom(ctx, b)
	if b.VisitorID != nil {
		// That their chat has ended reaches them first.
		defer room.Chats.AfterTold(in.ChatID, func() { room.Live.Close(*b.VisitorID) })
	}
	for _, id := range open {
		_, endErr := room.Talk.Ending(ctx, id, chat.Operator(o.ID), func(s chat.State, w chat.WrapUp) ([]chat.Event, error) {
			return s.ShutOut(chat.Operator(o.ID), w, room.Now())
		})
		err = errors.Join(err, chatlog.Overlooked(endErr))
	}
	return err
}

// openChatsFrom returns the ids of the chats that are not over, of a visitor or
// from a network.
func (room *Room) openChatsFrom(ctx context.Context, b Ban) ([]string, error) {
	open, err := room.Chats.OpenChats(ctx)
	if err != nil {
		return nil, err
	}
	visitors := make([]string, len(open))
	for i, c := range open {
		visitors[i] = c.VisitorID
	}
	if b.Network != nil {
		visitors, err = room.Register.From(ctx, visitors, *b.Network)
	} else {
		visitors = []string{*b.VisitorID}
	}
	var ids []string
	for _, c := range open {
		if slices.Contains(visitors, c.VisitorID) {
			ids = append(ids, c.ID)
		}
	}
	return ids, err
}

func networkOf(text string) (network, wrong string) {
	prefix, err := netip.ParsePrefix(text)
	if address, addressErr := netip.ParseAddr(text); addressErr == nil {
		prefix, err = netip.PrefixFrom(address.Unmap(), address.Unmap().BitLen()), nil
	}
	switch {
	case err != nil:
		return "", "This is neither an address like 192.0.2.44 nor a range like 192.0.2.0/24."
	case prefix.Addr().Is4() && prefix.Bits() < widestIPv4, prefix.Addr().Is6() && prefix.Bits() < widestIPv6:
		return "", "This range is too wide: it would shut out very many people."
	}
	return prefix.Masked().String(), ""
}

// Bans returns all bans, for leads and admins.
func (room *Room) Bans(ctx context.Context, o access.Actor) ([]BanView, error) {
	if !o.May(access.SeeBans) {
		return nil, access.ErrNotAllowed
	}
	list, err := room.Tables.Bans(ctx)
	views := make([]BanView, len(list))
	for i, b := range list {
		views[i] = BanView{ID: b.ID, Name: b.Name, Reason: b.Reason, By: room.Settings.OperatorName(b.ByID), CreatedAt: b.CreatedAt, Until: b.Until, LiftedAt: b.LiftedAt}
		views[i].Holds = b.LiftedAt == nil && (b.Until == nil || b.Until.After(room.Now()))
		if b.Network != nil {
			views[i].Network = *b.Network
		}
	}
	return views, err
}

// LiftBan ends a ban.
func (room *Room) LiftBan(ctx context.Context, o access.Actor, id string) error {
	if !o.May(access.SeeBans) {
		return access.ErrNotAllowed
	}
	if err := room.Tables.LiftBan(ctx, id, room.Now()); err != nil {
		return err
	}
	room.bansChanged(ctx)
	return nil
}

// bansLast is how long bans are remembered without being told that they changed:
// a notice can be lost.
const bansLast = 5 * time.Second

// holding are the bans that held when they were read.
type holding struct {
	read     time.Time
	visitors map[string]Ban
	networks []bannedNetwork
}

type bannedNetwork struct {
	prefix netip.Prefix
	ban    Ban
}

func (room *Room) readBans(ctx context.Context) (*holding, error) {
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), settings.Patience)
	defer cancel()
	h := &holding{read: room.Now(), visitors: map[string]Ban{}}
	list, err := room.Tables.HoldingBans(ctx, h.read)
	if err != nil {
		return nil, err
	}
	for _, b := range list {
		if b.VisitorID != nil {
			if before, known := h.visitors[*b.VisitorID]; !known || before.Until != nil && (b.Until == nil || b.Until.After(*before.Until)) {
				h.visitors[*b.VisitorID] = b // the one that holds longest
			}
		}
		if b.Network != nil {
			prefix, err := netip.ParsePrefix(*b.Network)
			if err != nil {
				return nil, fmt.Errorf("the network of a ban cannot be read: %w", err)
			}
			h.networks = append(h.networks, bannedNetwork{prefix, b})
		}
	}
	return h, nil
}

// shutsOut reports whether a visitor or an address is banned at a time.
func (h *holding) shutsOut(visitorID, address string, now time.Time) bool {
	holds := func(b Ban) bool { return b.Until == nil || b.Until.After(now) }
	if b, banned := h.visitors[visitorID]; banned && holds(b) {
		return true
	}
	from, err := netip.ParseAddr(address)
	if err != nil {
		return false // nobody knows from where
	}
	return slices.ContainsFunc(h.networks, func(n bannedNetwork) bool { return n.prefix.Contains(from.Unmap()) && holds(n.ban) })
}

// MayEnter refuses a visitor, or an address, that is banned.
func (room *Room) MayEnter(ctx context.Context, visitorID, address string) error {
	read := func() (*holding, error) { return room.readBans(ctx) }
	h, err := room.bans.Get(read)
	if err == nil && room.Now().Sub(h.read) > bansLast {
		room.bans.Forget()
		h, err = room.bans.Get(read)
	}
	if err == nil && h.shutsOut(visitorID, address, room.Now()) {
		err = access.ErrBanned
	}
	return err
}

// bansChanged lets all servers read the bans anew.
func (room *Room) bansChanged(ctx context.Context) {
	room.bans.Forget()
	room.Notices.Tell(ctx, BansNotice)
}
