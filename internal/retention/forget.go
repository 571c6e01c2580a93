package retention

import (
	"cmp"
	"context"
	"net/http"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/internal/chatlog"
	"stoop/internal/facts"
	"stoop/internal/people/register"
	"stoop/internal/problem"
	"stoop/internal/site/visits"
	"stoop/internal/store"
)

// Who says whom it is about: a contact, or the visitor of a chat.
type Who struct {
	ContactID string `json:"contactId,omitempty" format:"uuid"`
	ChatID    string `json:"chatId,omitempty" format:"uuid"`
	Claimed   bool   `json:"claimed" doc:"With the visitors who only gave the contact's email; they may be somebody else"`
}

// Kept is what is kept of a person.
type Kept struct {
	Name     string `json:"name"`
	Email    string `json:"email"`
	Contact  bool   `json:"contact"`
	Notes    int64  `json:"notes" doc:"About the contact"`
	Visitors int64  `json:"visitors" doc:"Browsers"`
	Claimed  int64  `json:"claimed" doc:"Browsers from which only the email was given"`
	Chats    int64  `json:"chats"`
	Messages int64  `json:"messages"`
	Files    int64  `json:"files"`
	Visits   int64  `json:"visits"`
	Tickets  int64  `json:"tickets"`
}

// person is whom it is about.
type person struct {
	contact  string // id; empty: none
	email    string // of the contact
	visitors []string
	chats    []string
	open     []string // of these
	claimed  int64
}

// find returns the person behind a contact or a chat.
func (room *Room) find(ctx context.Context, who Who) (p person, err error) {
	if !who.valid() {
		return p, store.ErrNotFound
	}
	p.contact = who.ContactID
	if p.contact == "" {
		c, err := room.Chats.Chat(ctx, who.ChatID)
		if err != nil {
			return p, err
		}
		visitor, err := room.Register.Visitor(ctx, c.VisitorID)
		if err != nil {
			return p, err
		}
		if visitor.ContactID == nil {
			p.visitors = []string{visitor.ID}
		} else {
			p.contact = *visitor.ContactID
		}
	}
	if p.contact != "" {
		c, err := room.Register.ContactByID(ctx, p.contact)
		if err != nil {
			return p, err
		}
		if c.Email != nil {
			p.email = *c.Email
		}
		linked, claimed, err := room.Register.Everybody(ctx, p.contact)
		if err != nil {
			return p, err
		}
		p.visitors, p.claimed = linked, int64(len(claimed))
		if who.Claimed {
			p.visitors = append(p.visitors, claimed...)
		}
	}
	p.chats, p.open, err = room.Chats.OfVisitors(ctx, p.visitors)
	return p, err
}

// Kept counts what is kept of a person.
func (room *Room) Kept(ctx context.Context, o access.Actor, who Who) (k Kept, err error) {
	if !o.May(access.ForgetPeople) {
		return k, access.ErrNotAllowed
	}
	p, err := room.find(ctx, who)
	if err != nil {
		return k, err
	}
	k.Contact, k.Visitors, k.Claimed, k.Chats = p.contact != "", int64(len(p.visitors)), p.claimed, int64(len(p.chats))
	if k.Contact {
		c, err := room.Register.ContactByID(ctx, p.contact)
		if err != nil {
			return k, err
		}
		k.Name = c.Name
		if c.Email != nil {
			k.Email = *c.Email
		}
	}
	err = room.Tables.Pool().QueryRow(ctx, "select count(*) from events where chat_id = any($1::uuid[]) and kind = 'said'", p.chats).Scan(&k.Messages)
	if err != nil {
		return k, err
	}
	if k.Files, err = room.Files.CountOf(ctx, p.chats); err != nil {
		return k, err
	}
	if k.Visits, err = room.Visits.CountOf(ctx, p.visitors); err != nil {
		return k, err
	}
	if k.Tickets, err = room.Tickets.CountOf(ctx, p.visitors, p.email); err != nil {
		return k, err
	}
	k.Notes, err = room.People.CountNotes(ctx, p.contact)
	return k, err
}

// Forget deletes all that is kept of a person: the contact with its notes, their browsers
// with all visits, chats and files. What was counted stays, and names nobody. It refuses
// while they are here, or a chat is not over: they would be known again at once.
func (room *Room) Forget(ctx context.Context, o access.Actor, who Who) error {
	if !o.May(access.ForgetPeople) {
		return access.ErrNotAllowed
	}
	p, err := room.find(ctx, who)
	if err != nil {
		return err
	}
	if len(p.open) > 0 {
		return problem.New(http.StatusConflict, "person-in-chat", "One of their chats is not over", "End it first. Then they can be forgotten.")
	}
	here, err := room.Visits.AnyHere(ctx, p.visitors, room.Now())
	if err != nil {
		return err
	}
	if here {
		return problem.New(http.StatusConflict, "person-here", "They are on the site right now", "They would be known again at once. Try again once they have left.")
	}
	// What has just ended is counted first, or reports would never know of it.
	if err := facts.On(room.Tables.Store).CatchUp(ctx, facts.FollowerName); err != nil {
		return err
	}
	hashes, err := room.Files.Hashes(ctx, p.chats)
	if err != nil {
		return err
	}
	err = pgx.BeginFunc(ctx, room.Tables.Pool(), func(tx pgx.Tx) error {
		if _, err := facts.Gone(ctx, tx, p.chats); err != nil {
			return err
		}
		erased, err := chatlog.Erase(ctx, tx, p.chats)
		if err != nil {
			return err
		}
		if erased < int64(len(p.chats)) {
			return store.ErrChanged // one of them came back to life meanwhile
		}
		if err := visits.ForgetOf(ctx, tx, p.visitors); err != nil {
			return err
		}
		if err := room.Tickets.EraseOf(ctx, tx, p.visitors, p.email); err != nil {
			return err
		}
		if err := register.Erase(ctx, tx, p.visitors, p.contact); err != nil {
			return err
		}
		return note(ctx, tx, Person, room.Now(), 1, &o.ID)
	})
	if err != nil {
		return err
	}
	room.erased(ctx, p.chats)
	return room.removeContents(ctx, hashes)
}

// removeContents removes those of some contents that no file needs any more. What cannot
// be removed now is swept later.
func (room *Room) removeContents(ctx context.Context, hashes []string) error {
	unused, err := room.Files.Unused(ctx, hashes)
	if err != nil {
		return err
	}
	for _, hash := range unused {
		if err := room.Contents.Remove(ctx, hash); err != nil {
			room.Log.Warn("a file of somebody who was forgotten could not be removed yet; it is swept later", "error", err)
		}
	}
	return nil
}

// valid reports whether it is said whom it is about.
func (w Who) valid() bool { return uuid.Validate(cmp.Or(w.ContactID, w.ChatID)) == nil }
