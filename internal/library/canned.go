package library

import (
	"context"
	"errors"
	"io"
	"slices"
	"strings"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/canned"
	"stoop/core/form"
	"stoop/internal/files"
	"stoop/internal/store"
	"stoop/internal/view"
)

// CannedView is a canned response as it is listed and edited.
type CannedView struct {
	ID           string          `json:"id,omitempty" doc:"Empty for a new one"`
	Version      int64           `json:"version" doc:"As it was read; 0 for a new one"`
	Scope        string          `json:"scope" enum:"own,department,common"`
	DepartmentID string          `json:"departmentId,omitempty"`
	Shortcut     string          `json:"shortcut"`
	Text         string          `json:"text"`
	Folder       string          `json:"folder"`
	Language     string          `json:"language"`
	Files        []view.FileView `json:"files"`
	Uses         int64           `json:"uses" doc:"By the whole team"`
	MyUses       int64           `json:"myUses"`
	MayEdit      bool            `json:"mayEdit"`
}

// library is what is remembered of the responses between two changes.
type library struct {
	*canned.Library
	rows  map[string]CannedResponse
	files map[string]files.File
}

func (room *Room) library(ctx context.Context) (*library, error) {
	return room.canned.Get(func() (*library, error) { return room.readLibrary(ctx) })
}

func (room *Room) readLibrary(ctx context.Context) (*library, error) {
	rows, err := room.Tables.CannedResponses(ctx)
	if err != nil {
		return nil, err
	}
	l := &library{rows: map[string]CannedResponse{}}
	responses := make([]canned.Response, len(rows))
	var withFiles []string
	for i, r := range rows {
		responses[i] = r.Core()
		l.rows[r.ID] = r
		withFiles = append(withFiles, r.FileIDs...)
	}
	l.Library = canned.New(responses)
	l.files, err = room.Files.FilesByID(ctx, withFiles)
	return l, err
}

func (l *library) fileViews(id string) []view.FileView {
	views := []view.FileView{}
	for _, fileID := range l.rows[id].FileIDs {
		f := l.files[fileID]
		views = append(views, *view.File(view.ChatFile(f)))
	}
	return views
}

// Canned returns the responses that an operator may use, in the order of their
// shortcuts.
func (room *Room) Canned(ctx context.Context, o access.Actor) ([]CannedView, error) {
	l, err := room.library(ctx)
	if err != nil {
		return nil, err
	}
	used, err := room.cannedUses(ctx)
	if err != nil {
		return nil, err
	}
	views := []CannedView{}
	for _, r := range l.rows {
		if !mayUse(o, r) {
			continue
		}
		v := CannedView{
			ID: r.ID, Version: r.Version, Scope: string(r.Scope), Shortcut: r.Shortcut, Text: r.Text, Folder: r.Folder, Language: r.Language, Files: l.fileViews(r.ID),
			Uses: used.all[r.ID], MyUses: int64(used.of[o.ID][r.ID]), MayEdit: mayEdit(o, r.Core()),
		}
		if r.Scope == canned.Department {
			v.DepartmentID = r.Core().Owner
		}
		views = append(views, v)
	}
	slices.SortFunc(views, func(x, y CannedView) int {
		return strings.Compare(strings.ToLower(x.Shortcut)+x.ID, strings.ToLower(y.Shortcut)+y.ID)
	})
	return views, nil
}

func mayUse(o access.Actor, r CannedResponse) bool {
	owner := r.Core().Owner
	switch r.Scope {
	case canned.Own:
		return owner == o.ID
	case canned.Department:
		return o.Leads() || o.MemberOf(owner)
	}
	return true
}

// mayEdit reports whether somebody may change a response: their own, and leads
// those that are shared.
func mayEdit(o access.Actor, r canned.Response) bool {
	if r.Scope == canned.Own {
		return r.Owner == o.ID
	}
	return o.May(access.ShareResponses)
}

// SaveCanned makes or changes a response.
func (room *Room) SaveCanned(ctx context.Context, o access.Actor, in CannedView) (CannedView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return in, err
	}
	row := CannedResponse{
		ID: in.ID, Version: in.Version, Scope: canned.Scope(in.Scope), Shortcut: strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(in.Shortcut), ";")), Text: strings.TrimSpace(in.Text),
		Folder: strings.TrimSpace(in.Folder), Language: canned.CleanLanguage(in.Language), CreatedAt: room.Now(), UpdatedAt: room.Now(),
	}
	switch row.Scope {
	case canned.Own:
		row.OwnerID = &o.ID
	case canned.Department:
		if _, ok := s.Departments[in.DepartmentID]; ok {
			row.OwnerID = &in.DepartmentID
		}
	}
	if in.ID == "" {
		row.ID, row.Version = uuid.NewString(), 0
	} else if err := room.mayChange(ctx, o, in.ID); err != nil {
		return in, err
	}
	if !mayEdit(o, row.Core()) {
		return in, access.ErrNotAllowed
	}
	for _, f := range in.Files {
		kept, err := room.Files.File(ctx, f.ID)
		if err == nil && kept.ChatID != nil {
			err = store.ErrNotFound // files of chats stay in their chat
		}
		if err != nil {
			return in, err
		}
		row.FileIDs = append(row.FileIDs, f.ID)
	}
	if err := form.Refuse(wrongOf(row.Core().Check())); err != nil {
		return in, err
	}
	err = room.Tables.SaveCanned(ctx, row)
	if errors.Is(err, store.ErrNameTaken) {
		return in, form.Refuse([]form.Wrong{{Field: "shortcut", Words: "Another response for the same people has this shortcut."}})
	}
	if err != nil {
		return in, err
	}
	room.cannedChanged()
	in.ID, in.Version, in.Shortcut, in.MayEdit = row.ID, row.Version+1, row.Shortcut, true
	if in.Files == nil {
		in.Files = []view.FileView{}
	}
	return in, nil
}

func (room *Room) mayChange(ctx context.Context, o access.Actor, id string) error {
	l, err := room.library(ctx)
	if err != nil {
		return err
	}
	row, ok := l.rows[id]
	if !ok {
		return store.ErrNotFound
	}
	if !mayEdit(o, row.Core()) {
		return access.ErrNotAllowed
	}
	return nil
}

// cannedChanged lets every console know.
func (room *Room) cannedChanged() {
	room.canned.Forget()
	room.Near.ToTeam(LibraryMoved{Type: "library"})
}

func wrongOf(list []canned.Wrong) []form.Wrong {
	var wrong []form.Wrong
	for _, w := range list {
		wrong = append(wrong, form.Wrong{Field: w.Field, Words: w.Words})
	}
	return wrong
}

// RemoveCanned deletes a response.
func (room *Room) RemoveCanned(ctx context.Context, o access.Actor, id string) error {
	if err := room.mayChange(ctx, o, id); err != nil {
		return err
	}
	if err := room.Tables.RemoveCanned(ctx, id); err != nil {
		return err
	}
	room.cannedChanged()
	return nil
}

// KeepFile keeps a file for a canned response.
func (room *Room) KeepFile(ctx context.Context, o access.Actor, claim files.Claim, content io.Reader) (view.FileView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return view.FileView{}, err
	}
	got, err := files.Receive(ctx, room.Contents, content, claim, s.FileRules())
	if err != nil {
		return view.FileView{}, err
	}
	f := files.File{
		ID: uuid.NewString(), Hash: got.Hash, ThumbHash: got.ThumbHash, Name: got.Name, Type: got.Type, Size: got.Size, Width: got.Width, Height: got.Height,
		Side: "team", PartyID: o.ID, CreatedAt: room.Now(),
	}
	return *view.File(view.ChatFile(f)), room.Files.AddFile(ctx, f)
}
