package channel

import (
	"context"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/internal/carrier"
	"stoop/internal/store"
)

// Person is who writes from an address to a line.
type Person struct {
	LineID    string
	Address   string
	VisitorID string
	AgreedAt  time.Time
	AgreedHow string
}

// The ways in which somebody agreed to be written to at an address.
const (
	wrote  = "wrote" // they wrote there first
	byCode = "code"  // by a code that the chat showed them
)

// TableName names the table to GORM.
func (Person) TableName() string { return "channel_people" }

// Person returns who writes from an address to a line.
func (s Tables) Person(ctx context.Context, lineID, address string) (Person, error) {
	var p Person
	return p, store.NotFound(s.DB.WithContext(ctx).Where("line_id = ? and address = ?", lineID, address).Take(&p).Error)
}

// AddressOf returns the address from which a person wrote to a line last, by any of their
// visitors.
func (s Tables) AddressOf(ctx context.Context, lineID string, visitorIDs []string) (Person, error) {
	var p Person
	return p, store.NotFound(s.DB.WithContext(ctx).Where("line_id = ? and visitor_id in ?", lineID, visitorIDs).Order("agreed_at desc").Take(&p).Error)
}

// Agreed returns the addresses from which people write.
func (s Tables) Agreed(ctx context.Context, visitorIDs []string) ([]carrier.Agreed, error) {
	var people []Person
	err := s.DB.WithContext(ctx).Where("visitor_id in ?", visitorIDs).Order("agreed_at, address").Find(&people).Error
	list := []carrier.Agreed{}
	for _, p := range people {
		list = append(list, carrier.Agreed{Address: p.Address, Since: p.AgreedAt, How: p.AgreedHow})
	}
	return list, err
}

// KeepPerson puts down who writes from an address; whoever did before does no longer.
func (s Tables) KeepPerson(ctx context.Context, p Person) error {
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "line_id"}, {Name: "address"}}, UpdateAll: true}).Create(&p).Error
}

// MeetPerson returns who writes from an address: the one who is known, or the one given.
func (s Tables) MeetPerson(ctx context.Context, p Person) (Person, error) {
	if err := s.DB.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&p).Error; err != nil {
		return p, err
	}
	return s.Person(ctx, p.LineID, p.Address)
}

// stopped reports whether an address wants nothing of a line, by its digest.
func (s Tables) stopped(ctx context.Context, lineID, digest string) (is bool, err error) {
	return is, s.DB.WithContext(ctx).Raw("select exists (select from channel_stops where line_id = ? and digest = ? and started_at is null)", lineID, digest).Scan(&is).Error
}

// stoppedSince reports whether an address has wanted nothing of a line since some time, though it
// may want something again.
func (s Tables) stoppedSince(ctx context.Context, lineID, digest string, since time.Time) (is bool, err error) {
	return is, s.DB.WithContext(ctx).Raw("select exists (select from channel_stops where line_id = ? and digest = ? and (started_at is null or stopped_at >= ?))", lineID, digest, since).Scan(&is).Error
}

func (s Tables) stop(ctx context.Context, lineID, digest string, now time.Time) (isNew bool, err error) {
	done := s.DB.WithContext(ctx).Exec(`insert into channel_stops as o (line_id, digest, stopped_at) values (?, ?, ?)
		on conflict (line_id, digest) do update set stopped_at = excluded.stopped_at, started_at = null where o.started_at is not null`, lineID, digest, now)
	return done.RowsAffected > 0, done.Error
}

func (s Tables) start(ctx context.Context, lineID, digest string, now time.Time) (was bool, err error) {
	done := s.DB.WithContext(ctx).Exec("update channel_stops set started_at = ? where line_id = ? and digest = ? and started_at is null", now, lineID, digest)
	return done.RowsAffected > 0, done.Error
}

// came reports whether something came in before.
func (s Tables) came(ctx context.Context, lineID, id string) (before bool, err error) {
	return before, s.DB.WithContext(ctx).Raw("select exists (select from channel_in where line_id = ? and id = ?)", lineID, id).Scan(&before).Error
}

// cameIn puts down that something came in.
func (s Tables) cameIn(ctx context.Context, lineID, id string, now time.Time) error {
	return s.DB.WithContext(ctx).Exec("insert into channel_in (line_id, id, at) values (?, ?, ?) on conflict do nothing", lineID, id, now).Error
}

// code is a code by which a visitor goes on at a line.
type code struct {
	Code   string
	ChatID string
	LineID string
	MadeAt time.Time
}

// TableName names the table to GORM.
func (code) TableName() string { return "channel_codes" }

// codeOf returns the code of a chat: the one that it has for the line, while that is not older
// than some time, or else the one given.
func (s Tables) codeOf(ctx context.Context, c code, since time.Time) (code, error) {
	var kept code
	err := s.DB.WithContext(ctx).Raw(`insert into channel_codes as o (code, chat_id, line_id, made_at) values (@code, @chat, @line, @now)
		on conflict (chat_id) do update set
			code = case when o.line_id = @line and o.made_at > @since then o.code else excluded.code end,
			made_at = case when o.line_id = @line and o.made_at > @since then o.made_at else excluded.made_at end, line_id = @line
		returning code, chat_id, line_id, made_at`,
		map[string]any{"code": c.Code, "chat": c.ChatID, "line": c.LineID, "now": c.MadeAt, "since": since}).Scan(&kept).Error
	return kept, err
}

// chatOf returns the chat of a code of a line that is not older than some time; none, if there is
// no such code.
func (s Tables) chatOf(ctx context.Context, lineID, text string, since time.Time) (chatID string, err error) {
	return chatID, s.DB.WithContext(ctx).Raw("select chat_id::text from channel_codes where code = ? and line_id = ? and made_at > ?", text, lineID, since).Scan(&chatID).Error
}

// dropCode lets nobody use a code again.
func (s Tables) dropCode(ctx context.Context, text string) error {
	return s.DB.WithContext(ctx).Exec("delete from channel_codes where code = ?", text).Error
}

// outgoing is something that goes out, or did.
type outgoing struct {
	ID        string
	Seq       int64 `gorm:"->"`
	Kind      channel.Kind
	LineID    string
	Address   string
	ChatID    *string
	Number    int64
	Words     string
	CreatedAt time.Time
	NextAt    time.Time
	Tries     int
	DoneAt    *time.Time
	Failed    bool
	Why       string
}

// TableName names the table to GORM.
func (outgoing) TableName() string { return "channel_out" }

type execer interface {
	Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error)
}

var _ execer = pgx.Tx(nil)

// putWords puts words of a chat into the queue of what goes out, once.
func putWords(ctx context.Context, db execer, over chat.Way, chatID string, number int64, now time.Time) error {
	_, err := db.Exec(ctx, `insert into channel_out (id, kind, line_id, address, chat_id, number, created_at, next_at)
		select $1, $2, $3, $4, id, $6, $7, $7 from chats where id = $5 on conflict do nothing`,
		uuid.NewString(), string(over.Kind), over.Line, over.Address, chatID, number, now)
	return err
}

// putText puts words of Stoop's own into the queue.
func (s Tables) putText(ctx context.Context, over chat.Way, chatID, words string, now time.Time) error {
	o := outgoing{ID: uuid.NewString(), Kind: over.Kind, LineID: over.Line, Address: over.Address, Words: words, CreatedAt: now, NextAt: now}
	if chatID != "" {
		o.ChatID = &chatID
	}
	return s.DB.WithContext(ctx).Create(&o).Error
}

// claim takes what is due first of what is first for its address, and lets nobody else take it
// for a time: whoever dies with it, it is carried again.
func (s Tables) claim(ctx context.Context, now time.Time, lease time.Duration) (o outgoing, found bool, err error) {
	err = s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var list []outgoing
		err := tx.Raw(`select o.* from channel_out o where o.done_at is null and o.next_at <= @now
			and not exists (select from channel_out e where e.line_id = o.line_id and e.address = o.address and e.done_at is null and e.seq < o.seq)
			order by o.next_at, o.seq limit 1 for update skip locked`, map[string]any{"now": now}).Scan(&list).Error
		if err != nil || len(list) == 0 {
			return err
		}
		o, found = list[0], true
		o.Tries++
		return tx.Exec("update channel_out set tries = ?, next_at = ? where id = ?", o.Tries, now.Add(lease), o.ID).Error
	})
	return o, found, err
}

// carried puts down what became of a try; one that is known of late changes nothing.
func (s Tables) carried(ctx context.Context, o outgoing) error {
	return s.DB.WithContext(ctx).Exec("update channel_out set done_at = ?, failed = ?, why = ?, next_at = ? where id = ? and done_at is null and tries = ?",
		o.DoneAt, o.Failed, o.Why, o.NextAt, o.ID, o.Tries).Error
}

// outgoing returns what goes out, or went, under an id.
func (s Tables) outgoing(ctx context.Context, id string) (outgoing, error) {
	var o outgoing
	if uuid.Validate(id) != nil {
		return o, store.ErrNotFound
	}
	return o, store.NotFound(s.DB.WithContext(ctx).Where("id = ?", id).Take(&o).Error)
}

// wordsFor returns the words of chats that wait to go to an address, without those that somebody
// may be carrying at this moment.
func (s Tables) wordsFor(ctx context.Context, lineID, address string, now time.Time, lease time.Duration) (list []outgoing, err error) {
	return list, s.DB.WithContext(ctx).Where("line_id = ? and address = ? and number > 0 and done_at is null", lineID, address).
		Where("tries = 0 or next_at <= ? or next_at > ?", now, now.Add(lease)).Order("seq").Find(&list).Error
}

// giveUp lets something wait no longer.
func (s Tables) giveUp(ctx context.Context, o outgoing, why string, now time.Time) error {
	return s.DB.WithContext(ctx).Exec("update channel_out set done_at = ?, failed = true, why = ? where id = ? and done_at is null", now, why, o.ID).Error
}
