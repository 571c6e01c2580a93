package app

import (
	"context"
	"crypto/hmac"
	"errors"
	"io"
	"net/url"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/files"
	"stoop/internal/store"
)

// FileView is a shared file.
type FileView struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Type     string `json:"type" doc:"Media type, as found in the content"`
	Kind     string `json:"kind" enum:"picture,pdf,video,sound,text,document,archive"`
	Size     int64  `json:"size" doc:"In bytes"`
	Width    int    `json:"width,omitempty"`
	Height   int    `json:"height,omitempty"`
	Voice    bool   `json:"voice,omitempty" doc:"Recorded while writing"`
	URL      string `json:"url"`
	ThumbURL string `json:"thumbUrl,omitempty" doc:"For pictures: a small one"`
}

func fileView(f chat.File) *FileView {
	v := &FileView{
		ID: f.ID, Name: f.Name, Type: f.Type, Kind: string(files.KindOf(f.Type)), Size: f.Size, Width: f.Width, Height: f.Height, Voice: f.Voice,
		URL: "/files/" + f.ID + "/" + url.PathEscape(f.Name),
	}
	if files.Shown(f.Type) {
		v.ThumbURL = v.URL + "?small=1"
	}
	return v
}

// signed returns a file's view with addresses that open it without a session.
func (a *App) signed(v FileView) *FileView {
	proof := a.proof("file", v.ID)
	v.URL += "?for=" + proof
	if v.ThumbURL != "" {
		v.ThumbURL += "&for=" + proof
	}
	return &v
}

// fileRules returns what is let in.
func (s *setup) fileRules() files.Rules {
	rules := files.Rules{MaxBytes: int64(s.desk.MaxMegabytes) << 20}
	for _, k := range s.desk.FileKinds {
		rules.Kinds = append(rules.Kinds, files.Kind(k))
	}
	return rules
}

// ErrNoFiles: visitors of this widget may not send files.
var ErrNoFiles = errors.New("this widget takes no files from visitors")

// OperatorShares adds a file to a chat that an operator is in.
func (a *App) OperatorShares(ctx context.Context, o access.Actor, chatID, clientID string, claim files.Claim, content io.Reader) (Said, error) {
	return a.receiveFile(ctx, chat.Operator(o.ID), chatID, clientID, claim, content)
}

// VisitorShares adds a visitor's file to their chat.
func (a *App) VisitorShares(ctx context.Context, v VisitorActor, chatID, clientID string, claim files.Claim, content io.Reader) (Said, error) {
	w, err := a.widget(ctx, v.WidgetID)
	if err != nil {
		return Said{}, err
	}
	if !w.VisitorFiles {
		return Said{}, ErrNoFiles
	}
	s, err := a.setup(ctx)
	if err != nil {
		return Said{}, err
	}
	who, err := a.store.Visitor(ctx, v.ID)
	if err != nil {
		return Said{}, err
	}
	largest := s.fileRules().MaxBytes
	size := min(claim.Size, largest)
	if size <= 0 {
		size = largest // it is not told
	}
	if err := a.quotas.take(v.ID, who.Address, size, largest); err != nil {
		return Said{}, err
	}
	return a.receiveFile(ctx, v.party(), chatID, clientID, claim, content)
}

func (a *App) receiveFile(ctx context.Context, by chat.Party, chatID, clientID string, claim files.Claim, content io.Reader) (Said, error) {
	// Whether they may is asked before a long upload, and decided after it.
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return Said{}, err
	}
	if _, err := c.State.Share(by, clientID, chat.File{}, a.now()); err != nil {
		if _, repeated, lookErr := a.store.EventBy(ctx, chatID, by, clientID); lookErr != nil || !repeated {
			return Said{}, err
		}
	}
	s, err := a.setup(ctx)
	if err != nil {
		return Said{}, err
	}
	got, err := files.Receive(ctx, a.files, content, claim, s.fileRules())
	if err != nil {
		return Said{}, err
	}
	return a.share(ctx, by, chatID, clientID, store.File{
		Hash: got.Hash, ThumbHash: got.ThumbHash, Name: got.Name, Type: got.Type, Size: got.Size, Width: got.Width, Height: got.Height, Voice: got.Voice,
	})
}

// ShareStored adds a file that is kept already, that of a canned response.
func (a *App) ShareStored(ctx context.Context, o access.Actor, chatID, clientID, fileID string) (Said, error) {
	f, err := a.store.File(ctx, fileID)
	if err != nil {
		return Said{}, err
	}
	if f.ChatID != nil {
		return Said{}, store.ErrNotFound // files of chats stay in their chat
	}
	return a.share(ctx, chat.Operator(o.ID), chatID, clientID, f)
}

// share stores the event and the file's row together.
func (a *App) share(ctx context.Context, by chat.Party, chatID, clientID string, f store.File) (Said, error) {
	id, err := uuid.NewV7()
	if err != nil {
		return Said{}, err
	}
	f.ID, f.ChatID, f.Side, f.PartyID, f.CreatedAt = id.String(), &chatID, by.Side, by.ID, a.now()
	shared := chatFile(f)
	r, err := a.appender.Append(ctx, store.Act{
		ChatID: chatID, By: by, ClientID: clientID,
		Decide: func(s chat.State) ([]chat.Event, error) {
			e, err := s.Share(by, clientID, shared, a.now())
			return []chat.Event{e}, err
		},
		Also: func(ctx context.Context, tx pgx.Tx, c store.Chat, events []chat.Event) error {
			f.Number = events[0].Number
			if err := store.AddFileTo(ctx, tx, f); err != nil {
				return err
			}
			if by.Side == chat.TeamSide && c.Message {
				return a.jobs.Add(ctx, tx, a.mailOf(c, f.Number), a.mailAt(c))
			}
			return nil
		},
	})
	if err != nil {
		return Said{}, err
	}
	view := a.eventViews(r.Chat, r.Events)
	if by.Side == chat.VisitorSide {
		view = a.forVisitor(r.Chat, view)
	}
	return Said{Event: view[0]}, nil
}

// RefuseFile is a visitor's word that they do not want a file.
func (a *App) RefuseFile(ctx context.Context, v VisitorActor, chatID string, number int64) error {
	file, err := a.store.Event(ctx, chatID, number)
	if err != nil {
		return err
	}
	return a.takeAway(ctx, v.party(), chatID, number, func(s chat.State) ([]chat.Event, error) { return s.Refuse(v.party(), file, a.now()) })
}

// takeAway does an act after which a file cannot be read any more.
func (a *App) takeAway(ctx context.Context, by chat.Party, chatID string, number int64, decide store.Decide) error {
	_, err := a.appender.Append(ctx, store.Act{ChatID: chatID, By: by, Decide: decide,
		Also: func(ctx context.Context, tx pgx.Tx, _ store.Chat, _ []chat.Event) error {
			return store.TakeFileAway(ctx, tx, chatID, number, a.now())
		}})
	return err
}

// OpenedFile is a file to be served.
type OpenedFile struct {
	store.File
	Content files.Content
}

// OpenFile opens a file for who has its signed address, or for an operator who
// may read its chat. Small asks for the small picture.
func (a *App) OpenFile(ctx context.Context, o *access.Actor, id, proof string, small bool) (OpenedFile, error) {
	f, err := a.store.File(ctx, id)
	if err != nil {
		return OpenedFile{}, err
	}
	signed := hmac.Equal([]byte(proof), []byte(a.proof("file", id)))
	if !signed && o == nil {
		return OpenedFile{}, store.ErrNotFound
	}
	if f.GoneAt != nil && (signed || f.Side == chat.VisitorSide) {
		return OpenedFile{}, store.ErrNotFound
	}
	if !signed && f.ChatID != nil {
		if err := a.mayRead(ctx, *o, *f.ChatID); err != nil {
			return OpenedFile{}, err
		}
	}
	hash := f.Hash
	if small && f.ThumbHash != "" {
		hash, f.Type = f.ThumbHash, "image/jpeg"
	}
	content, err := a.files.Open(ctx, hash)
	return OpenedFile{File: f, Content: content}, err
}

// mayRead refuses an operator who may read neither a chat nor one of the same
// visitor's that goes on now.
func (a *App) mayRead(ctx context.Context, o access.Actor, chatID string) error {
	c, err := a.store.Chat(ctx, chatID)
	if err != nil {
		return err
	}
	if o.Sees(c.State) {
		return nil
	}
	same, err := a.store.EarlierChats(ctx, c.VisitorID, c.ID, earlierLimit)
	for _, other := range same {
		if other.Phase != chat.Over && o.Sees(other.State) {
			return err
		}
	}
	return errors.Join(err, chat.ErrNotYours)
}

// orphanAge is how long a content may lie that no file needs: an upload whose
// message was not stored in the end.
const orphanAge = 24 * time.Hour

// filesSweptEvery is how often files are looked for that nobody needs.
const filesSweptEvery = 6 * time.Hour

// sweepFiles removes contents that no file needs.
func (a *App) sweepFiles(ctx context.Context) error {
	used, err := a.store.FilesInUse(ctx)
	if err != nil {
		return err
	}
	limit := time.Now().Add(-orphanAge)
	return a.files.Each(ctx, func(hash string, since time.Time) error {
		if used[hash] || since.After(limit) {
			return nil
		}
		return a.files.Remove(ctx, hash)
	})
}

func chatFile(f store.File) chat.File {
	return chat.File{ID: f.ID, Name: f.Name, Type: f.Type, Size: f.Size, Width: f.Width, Height: f.Height, Voice: f.Voice}
}
