package store

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"stoop/core/chat"
	"stoop/core/form"
)

// isAnswer reports whether an error is the database's own answer, in contrast
// to a lost connection.
func isAnswer(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg)
}

// Chat returns one chat.
func (s *Store) Chat(ctx context.Context, id string) (Chat, error) {
	var c Chat
	if uuid.Validate(id) != nil {
		return c, ErrNotFound
	}
	err := s.DB.WithContext(ctx).Where("id = ?", id).Take(&c).Error
	return c, notFound(err)
}

// Chats returns the chats with these ids, in no order; unknown ones are left out.
func (s *Store) Chats(ctx context.Context, ids []string) ([]Chat, error) {
	var list []Chat
	ids = slices.DeleteFunc(slices.Clone(ids), func(id string) bool { return uuid.Validate(id) != nil })
	err := s.DB.WithContext(ctx).Where("id in ?", ids).Find(&list).Error
	return list, err
}

// OpenChats returns the chats that are not over, the oldest first.
func (s *Store) OpenChats(ctx context.Context) ([]Chat, error) {
	var list []Chat
	err := s.DB.WithContext(ctx).Where("phase <> 'ended'").Order("started_at, id").Find(&list).Error
	return list, err
}

// LatestChat returns the visitor's open chat, or else the one that ended last.
func (s *Store) LatestChat(ctx context.Context, visitorID string) (Chat, error) {
	var c Chat
	err := s.DB.WithContext(ctx).Where("visitor_id = ?", visitorID).
		Order("(phase <> 'ended') desc, started_at desc").Take(&c).Error
	return c, notFound(err)
}

// Events returns up to limit events of a chat that follow a number.
func (s *Store) Events(ctx context.Context, chatID string, after int64, limit int) ([]chat.Event, error) {
	var rows []Event
	err := s.DB.WithContext(ctx).Where("chat_id = ? and number > ?", chatID, after).
		Order("number").Limit(limit).Find(&rows).Error
	events := make([]chat.Event, len(rows))
	for i, row := range rows {
		events[i] = fromRow(row)
	}
	return events, err
}

// Search asks for transcripts.
type Search struct {
	Words   string  // all of them must stand in the chat, as whole words or beginnings of words
	OwnerID *string // only the chats of this operator
	Before  *Cursor // only what comes after this place in the list
	Limit   int
}

// Cursor is a place in a list of chats, newest first.
type Cursor struct {
	StartedAt time.Time
	ID        string
}

// Hit is a chat that a search found, with the words that matched best.
type Hit struct {
	Chat    Chat
	Excerpt string
}

// Transcripts returns the ended chats that a search finds, newest first.
func (s *Store) Transcripts(ctx context.Context, q Search) ([]Hit, error) {
	terms := searchTerms(q.Words)
	find := s.DB.WithContext(ctx).Table("chats").Where("phase = 'ended'")
	if q.OwnerID != nil {
		find = find.Where("owner_id = ?", *q.OwnerID)
	}
	if q.Before != nil {
		find = find.Where("(started_at, id) < (?, ?)", q.Before.StartedAt, q.Before.ID)
	}
	if len(terms) > 0 {
		find = find.Where("id in (select chat_id from chat_search where words @@ to_tsquery('simple', ?))", strings.Join(terms, " & "))
	}
	var chats []Chat
	if err := find.Order("started_at desc, id desc").Limit(q.Limit).Find(&chats).Error; err != nil {
		return nil, err
	}
	excerpts, err := s.excerpts(ctx, chats, terms)
	if err != nil {
		return nil, err
	}
	hits := make([]Hit, len(chats))
	for i, c := range chats {
		hits[i] = Hit{Chat: c, Excerpt: excerpts[c.ID]}
		if hits[i].Excerpt == "" {
			hits[i].Excerpt = c.LastWords
		}
	}
	return hits, nil
}

// CountTranscripts returns how many chats a search finds in all.
func (s *Store) CountTranscripts(ctx context.Context, q Search) (int64, error) {
	find := s.DB.WithContext(ctx).Table("chats").Where("phase = 'ended'")
	if q.OwnerID != nil {
		find = find.Where("owner_id = ?", *q.OwnerID)
	}
	if terms := searchTerms(q.Words); len(terms) > 0 {
		find = find.Where("id in (select chat_id from chat_search where words @@ to_tsquery('simple', ?))", strings.Join(terms, " & "))
	}
	var n int64
	err := find.Count(&n).Error
	return n, err
}

// excerpts returns for each chat the message that holds most of the terms;
// without terms, the visitor's question.
func (s *Store) excerpts(ctx context.Context, chats []Chat, terms []string) (map[string]string, error) {
	if len(chats) == 0 {
		return nil, nil
	}
	ids := make([]string, len(chats))
	for i, c := range chats {
		ids[i] = c.ID
	}
	var rows []struct {
		ChatID string
		Text   string
	}
	query := s.DB.WithContext(ctx).Table("events").Select("distinct on (chat_id) chat_id, text").
		Where("chat_id in ? and kind = 'said'", ids)
	if len(terms) == 0 {
		query = query.Order("chat_id, number")
	} else {
		any := strings.Join(terms, " | ")
		query = query.Where("search_words(text) @@ to_tsquery('simple', ?)", any).
			Order(gorm.Expr("chat_id, ts_rank(search_words(text), to_tsquery('simple', ?)) desc, number", any))
	}
	if err := query.Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make(map[string]string, len(rows))
	for _, r := range rows {
		out[r.ChatID] = chat.CleanLine(r.Text, excerptLength)
	}
	return out, nil
}

// searchTerms turns typed words into terms of a text search query, each
// matching the beginning of a word. Quoting keeps every character literal.
func searchTerms(words string) []string {
	var terms []string
	words = strings.NewReplacer("<", " ", ">", " ").Replace(words) // as search_words does
	for _, w := range strings.Fields(chat.CleanLine(words, 200)) {
		quoted := strings.NewReplacer(`\`, `\\`, `'`, `''`).Replace(w)
		terms = append(terms, "'"+quoted+"':*")
	}
	return terms
}

// Today counts the chats that arrived since a time: how many are decided
// against the answer target, and how many of those were taken within it. A
// chat is decided when it was taken, missed, or has waited beyond the target.
func (s *Store) Today(ctx context.Context, since, now time.Time) (within, decided int64, err error) {
	var row struct{ Within, Decided int64 }
	err = s.DB.WithContext(ctx).Raw(`
		select count(*) filter (where c.taken_at - c.started_at <= target) as within,
		       count(*) filter (where c.taken_at is not null or c.phase = 'ended' or ?::timestamptz - c.started_at > target) as decided
		from chats c join widgets w on w.id = c.widget_id left join departments d on d.id = c.department_id,
		     lateral (select make_interval(secs => coalesce(d.target_seconds, w.answer_target_seconds)) as target) t
		where c.started_at >= ? and not c.message`, now, since).Scan(&row).Error
	return row.Within, row.Decided, err
}

// OperatorByEmail returns the operator with an email address, in any case.
func (s *Store) OperatorByEmail(ctx context.Context, email string) (Operator, error) {
	var o Operator
	err := s.DB.WithContext(ctx).Where("lower(email) = lower(?)", email).Take(&o).Error
	return o, notFound(err)
}

// Operators returns the whole team, by name.
func (s *Store) Operators(ctx context.Context) ([]Operator, error) {
	var list []Operator
	err := s.DB.WithContext(ctx).Order("name, id").Find(&list).Error
	return list, err
}

// SetAvailable stores an operator's own word on taking new chats.
func (s *Store) SetAvailable(ctx context.Context, operatorID string, available bool) error {
	return s.DB.WithContext(ctx).Exec("update operators set available = ?, away_why = '', passes = 0 where id = ?", available, operatorID).Error
}

// SetPassword replaces an operator's password hash.
func (s *Store) SetPassword(ctx context.Context, operatorID, hash string) error {
	return s.DB.WithContext(ctx).Model(&Operator{}).Where("id = ?", operatorID).Update("password_hash", hash).Error
}

// Widgets returns all widgets.
func (s *Store) Widgets(ctx context.Context) ([]Widget, error) {
	var list []Widget
	err := s.DB.WithContext(ctx).Order("created_at, id").Find(&list).Error
	return list, err
}

// WidgetByKey returns the widget with a public key.
func (s *Store) WidgetByKey(ctx context.Context, key string) (Widget, error) {
	var w Widget
	err := s.DB.WithContext(ctx).Where("key = ?", key).Take(&w).Error
	return w, notFound(err)
}

// Visitor returns one visitor.
func (s *Store) Visitor(ctx context.Context, id string) (Visitor, error) {
	var v Visitor
	err := s.DB.WithContext(ctx).Where("id = ?", id).Take(&v).Error
	return v, notFound(err)
}

// NameVisitor stores what the visitor told about themselves; empty values
// leave what is known.
func (s *Store) NameVisitor(ctx context.Context, id, name, email, phone string, answers form.Answers) error {
	if answers == nil {
		answers = form.Answers{}
	}
	told, err := json.Marshal(answers)
	if err != nil {
		return err
	}
	return s.DB.WithContext(ctx).Exec(`update visitors set name = coalesce(nullif(?, ''), name), email = coalesce(nullif(?, ''), email),
		phone = coalesce(nullif(?, ''), phone), answers = answers || ?::jsonb where id = ?`, name, email, phone, string(told), id).Error
}

// OpenChatOf returns the visitor's chat that is not over, or the one that was
// started under a client id.
func (s *Store) OpenChatOf(ctx context.Context, visitorID, clientID string) (Chat, error) {
	var c Chat
	err := s.DB.WithContext(ctx).Where("visitor_id = ? and (start_client_id = ? or phase <> 'ended')", visitorID, clientID).Take(&c).Error
	return c, notFound(err)
}

// OperatorByID returns one operator.
func (s *Store) OperatorByID(ctx context.Context, id string) (Operator, error) {
	var o Operator
	err := s.DB.WithContext(ctx).Where("id = ?", id).Take(&o).Error
	return o, notFound(err)
}

// AddOperator stores a new member of the team, who may log in.
func (s *Store) AddOperator(ctx context.Context, o Operator) error {
	o.Active = true
	if o.Preferences == nil {
		o.Preferences = map[string]any{}
	}
	if o.Languages == nil {
		o.Languages = []string{}
	}
	return s.DB.WithContext(ctx).Create(&o).Error
}

// SaveWidget stores a widget under its key, making it if it is not there.
func (s *Store) SaveWidget(ctx context.Context, w Widget) error {
	if w.Departments == nil {
		w.Departments = []string{}
	}
	if w.Form == nil {
		w.Form = DefaultForm
	}
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "key"}}, UpdateAll: true}).Create(&w).Error
}

// WrapUpsOf returns the ended chats that an operator still wraps up, or owes an
// outcome.
func (s *Store) WrapUpsOf(ctx context.Context, operatorID string) ([]Chat, error) {
	var list []Chat
	err := s.DB.WithContext(ctx).Where("owner_id = ? and phase = 'ended' and (wrap_until > now() or needs_outcome)", operatorID).Find(&list).Error
	return list, err
}

// SilentChat is a chat whose visitor owes a word for longer than its department
// has patience.
type SilentChat struct {
	ID           string
	DepartmentID string
}

// SilentChats returns the chats whose visitors must be reminded or given up.
func (s *Store) SilentChats(ctx context.Context, now time.Time) ([]SilentChat, error) {
	var list []SilentChat
	err := s.DB.WithContext(ctx).Raw(`select c.id, c.department_id from chats c join departments d on d.id = c.department_id
		where c.phase = 'active' and not c.message and c.last_words_side = 'team' and d.silent_remind > 0
		  and c.last_words_at <= ?::timestamptz - make_interval(secs => d.silent_remind)`, now).Scan(&list).Error
	return list, err
}

// Tx is a transaction that jobs can be put into.
type Tx = pgx.Tx

// UntoldMessage is a message of which the team was not told.
type UntoldMessage struct {
	ID           string
	DepartmentID string
}

// UntoldMessages returns the messages of which the team was not told.
func (s *Store) UntoldMessages(ctx context.Context) ([]UntoldMessage, error) {
	var list []UntoldMessage
	err := s.DB.WithContext(ctx).Raw("select id, department_id from chats where message and phase = 'waiting' and not told limit 100").Scan(&list).Error
	return list, err
}

// TellOnce does something together with noting that the team was told of a
// message, unless that was done before.
func (s *Store) TellOnce(ctx context.Context, chatID string, do func(Tx) error) error {
	return pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		done, err := tx.Exec(ctx, "update chats set told = true where id = $1 and not told", chatID)
		if err != nil || done.RowsAffected() == 0 {
			return err
		}
		return do(tx)
	})
}
