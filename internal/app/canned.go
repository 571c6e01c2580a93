package app

import (
	"bytes"
	"context"
	"errors"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/canned"
	"stoop/core/form"
	"stoop/internal/files"
	"stoop/internal/store"
)

// CannedView is a canned response as it is listed and edited.
type CannedView struct {
	ID           string     `json:"id,omitempty" doc:"Empty for a new one"`
	Version      int64      `json:"version" doc:"As it was read; 0 for a new one"`
	Scope        string     `json:"scope" enum:"own,department,common"`
	DepartmentID string     `json:"departmentId,omitempty"`
	Shortcut     string     `json:"shortcut"`
	Text         string     `json:"text"`
	Folder       string     `json:"folder"`
	Language     string     `json:"language"`
	Files        []FileView `json:"files"`
	Uses         int64      `json:"uses" doc:"By the whole team"`
	MyUses       int64      `json:"myUses"`
	MayEdit      bool       `json:"mayEdit"`
}

// Suggestion is a response that fits what is being typed, filled for the chat.
type Suggestion struct {
	ID       string     `json:"id"`
	Shortcut string     `json:"shortcut"`
	Text     string     `json:"text" doc:"With values in the place of placeholders"`
	Match    string     `json:"match" doc:"The end of the typed text that it replaces"`
	Missing  []string   `json:"missing,omitempty" doc:"Placeholders that have neither value nor fallback"`
	Scope    string     `json:"scope" enum:"own,department,common"`
	Folder   string     `json:"folder,omitempty"`
	Language string     `json:"language,omitempty"`
	Files    []FileView `json:"files,omitempty"`
}

// library is what is remembered of the responses between two changes.
type library struct {
	*canned.Library
	rows  map[string]store.CannedResponse
	files map[string]store.File
}

// usesFor is how long the counts of uses are remembered: they order
// suggestions, and need not be exact.
const usesFor = 10 * time.Second

func (a *App) library(ctx context.Context) (*library, error) {
	return a.cannedOnes.get(func() (*library, error) { return a.readLibrary(ctx) })
}

func (a *App) readLibrary(ctx context.Context) (*library, error) {
	rows, err := a.store.CannedResponses(ctx)
	if err != nil {
		return nil, err
	}
	l := &library{rows: map[string]store.CannedResponse{}}
	responses := make([]canned.Response, len(rows))
	var withFiles []string
	for i, r := range rows {
		responses[i] = r.Core()
		l.rows[r.ID] = r
		withFiles = append(withFiles, r.FileIDs...)
	}
	l.Library = canned.New(responses)
	l.files, err = a.store.FilesByID(ctx, withFiles)
	return l, err
}

func (a *App) forgetLibrary() { a.cannedOnes.forget() }

// uses are counts of uses by response, of each operator and of all.
type uses struct {
	read time.Time
	of   map[string]map[string]float64
	all  map[string]int64
}

func (a *App) cannedUses(ctx context.Context) (uses, error) {
	a.mu.Lock()
	kept := a.uses
	a.mu.Unlock()
	if kept.of != nil && time.Since(kept.read) < usesFor {
		return kept, nil
	}
	rows, err := a.store.CannedUses(ctx)
	if err != nil {
		return kept, err
	}
	fresh := uses{read: time.Now(), of: map[string]map[string]float64{}, all: map[string]int64{}}
	for _, r := range rows {
		if fresh.of[r.OperatorID] == nil {
			fresh.of[r.OperatorID] = map[string]float64{}
		}
		fresh.of[r.OperatorID][r.ResponseID] = float64(r.Uses)
		fresh.all[r.ResponseID] += r.Uses
	}
	a.mu.Lock()
	a.uses = fresh
	a.mu.Unlock()
	return fresh, nil
}

// suggestMost bounds how many responses are suggested while typing, and listMost
// how many the full list shows.
const (
	suggestMost = 5
	listMost    = 200
)

// Suggest returns the responses that fit what an operator types in a chat. With
// all, it is a search in those that they may use.
func (a *App) Suggest(ctx context.Context, o access.Actor, chatID, typed string, all bool) ([]Suggestion, error) {
	c, s, err := a.readable(ctx, o, chatID)
	if err != nil {
		return nil, err
	}
	l, err := a.library(ctx)
	if err != nil {
		return nil, err
	}
	used, err := a.cannedUses(ctx)
	if err != nil {
		return nil, err
	}
	reader := readerOf(o, used)
	reader.Department, reader.Language = c.State.Department, c.Language
	var hits []canned.Hit
	if all {
		hits = l.Find(typed, reader, listMost)
	} else {
		hits = l.Suggest(typed, reader, suggestMost)
	}
	if len(hits) == 0 {
		return []Suggestion{}, nil
	}
	value, err := a.placeholders(ctx, o, c, s)
	if err != nil {
		return nil, err
	}
	out := make([]Suggestion, len(hits))
	for i, h := range hits {
		out[i] = Suggestion{ID: h.ID, Shortcut: h.Shortcut, Match: h.Match, Scope: string(h.Scope), Folder: h.Folder, Language: h.Language, Files: l.fileViews(h.ID)}
		out[i].Text, out[i].Missing = canned.Fill(h.Text, value)
	}
	return out, nil
}

// placeholders returns the values that a chat has for placeholders.
func (a *App) placeholders(ctx context.Context, o access.Actor, c store.Chat, s *setup) (func(string) string, error) {
	visits, err := a.store.LatestVisits(ctx, []string{c.VisitorID})
	if err != nil {
		return nil, err
	}
	visit := visits[c.VisitorID]
	values := map[string]string{
		"visitor.name": c.Name, "visitor.first": firstWord(c.Name), "visitor.email": c.Email,
		"operator.name": o.Name, "operator.first": firstWord(o.Name),
		"page.title": visit.PageTitle, "page.url": visit.PageURL, "department.name": s.departments[c.State.Department].Name,
	}
	for name, answer := range c.Answers {
		values["form."+name] = answer
	}
	return func(name string) string { return values[name] }, nil
}

func firstWord(s string) string {
	first, _, _ := strings.Cut(strings.TrimSpace(s), " ")
	return first
}

func readerOf(o access.Actor, used uses) canned.Reader {
	return canned.Reader{Operator: o.ID, Uses: used.of[o.ID], Departments: o.Departments}
}

func (l *library) fileViews(id string) []FileView {
	views := []FileView{}
	for _, fileID := range l.rows[id].FileIDs {
		f := l.files[fileID]
		views = append(views, *fileView(chatFile(f)))
	}
	return views
}

// UseCanned counts a use; it happens beside a message and must not hold it up.
func (a *App) UseCanned(ctx context.Context, o access.Actor, id string) error {
	return a.store.UseCanned(ctx, id, o.ID, a.now())
}

// Canned returns the responses that an operator may use, in the order of their
// shortcuts.
func (a *App) Canned(ctx context.Context, o access.Actor) ([]CannedView, error) {
	l, err := a.library(ctx)
	if err != nil {
		return nil, err
	}
	used, err := a.cannedUses(ctx)
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

func mayUse(o access.Actor, r store.CannedResponse) bool {
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
func (a *App) SaveCanned(ctx context.Context, o access.Actor, in CannedView) (CannedView, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return in, err
	}
	row := store.CannedResponse{
		ID: in.ID, Version: in.Version, Scope: canned.Scope(in.Scope), Shortcut: strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(in.Shortcut), ";")), Text: strings.TrimSpace(in.Text),
		Folder: strings.TrimSpace(in.Folder), Language: canned.CleanLanguage(in.Language), CreatedAt: a.now(), UpdatedAt: a.now(),
	}
	switch row.Scope {
	case canned.Own:
		row.OwnerID = &o.ID
	case canned.Department:
		if _, ok := s.departments[in.DepartmentID]; ok {
			row.OwnerID = &in.DepartmentID
		}
	}
	if in.ID == "" {
		row.ID, row.Version = uuid.NewString(), 0
	} else if err := a.mayChange(ctx, o, in.ID); err != nil {
		return in, err
	}
	if !mayEdit(o, row.Core()) {
		return in, ErrNotAllowed
	}
	for _, f := range in.Files {
		kept, err := a.store.File(ctx, f.ID)
		if err == nil && kept.ChatID != nil {
			err = store.ErrNotFound // files of chats stay in their chat
		}
		if err != nil {
			return in, err
		}
		row.FileIDs = append(row.FileIDs, f.ID)
	}
	if err := refuse(wrongOf(row.Core().Check())); err != nil {
		return in, err
	}
	err = a.store.SaveCanned(ctx, row)
	if errors.Is(err, store.ErrNameTaken) {
		return in, refuse([]form.Wrong{{Field: "shortcut", Words: "Another response for the same people has this shortcut."}})
	}
	if err != nil {
		return in, err
	}
	a.cannedChanged()
	in.ID, in.Version, in.Shortcut, in.MayEdit = row.ID, row.Version+1, row.Shortcut, true
	if in.Files == nil {
		in.Files = []FileView{}
	}
	return in, nil
}

func (a *App) mayChange(ctx context.Context, o access.Actor, id string) error {
	l, err := a.library(ctx)
	if err != nil {
		return err
	}
	row, ok := l.rows[id]
	if !ok {
		return store.ErrNotFound
	}
	if !mayEdit(o, row.Core()) {
		return ErrNotAllowed
	}
	return nil
}

// cannedChanged lets every console know.
func (a *App) cannedChanged() {
	a.forgetLibrary()
	a.live.ToTeam(LibraryMoved{Type: "library"})
}

func wrongOf(list []canned.Wrong) []form.Wrong {
	var wrong []form.Wrong
	for _, w := range list {
		wrong = append(wrong, form.Wrong{Field: w.Field, Words: w.Words})
	}
	return wrong
}

// RemoveCanned deletes a response.
func (a *App) RemoveCanned(ctx context.Context, o access.Actor, id string) error {
	if err := a.mayChange(ctx, o, id); err != nil {
		return err
	}
	if err := a.store.RemoveCanned(ctx, id); err != nil {
		return err
	}
	a.cannedChanged()
	return nil
}

// KeepFile keeps a file for a canned response.
func (a *App) KeepFile(ctx context.Context, o access.Actor, claim files.Claim, content io.Reader) (FileView, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return FileView{}, err
	}
	got, err := files.Receive(ctx, a.files, content, claim, s.fileRules())
	if err != nil {
		return FileView{}, err
	}
	f := store.File{
		ID: uuid.NewString(), Hash: got.Hash, ThumbHash: got.ThumbHash, Name: got.Name, Type: got.Type, Size: got.Size, Width: got.Width, Height: got.Height,
		Side: "team", PartyID: o.ID, CreatedAt: a.now(),
	}
	return *fileView(chatFile(f)), a.store.AddFile(ctx, f)
}

// ExportCanned writes the responses that somebody may use as CSV.
func (a *App) ExportCanned(ctx context.Context, o access.Actor, w io.Writer) error {
	s, err := a.setup(ctx)
	if err != nil {
		return err
	}
	rows, err := a.store.CannedResponses(ctx)
	if err != nil {
		return err
	}
	var responses []canned.Response
	for _, r := range rows {
		if mayUse(o, r) {
			responses = append(responses, r.Core())
		}
	}
	return canned.Write(w, responses, func(id string) string { return s.departments[id].Name })
}

// ImportView is what importing a CSV file would do, or did.
type ImportView struct {
	Add      []ImportLine `json:"add"`
	Change   []ImportLine `json:"change"`
	Same     int          `json:"same"`
	Rejected []RejectView `json:"rejected"`
}

// ImportLine is one response of a file.
type ImportLine struct {
	Line     int    `json:"line"`
	Shortcut string `json:"shortcut"`
	Language string `json:"language,omitempty"`
	Scope    string `json:"scope"`
	Before   string `json:"before,omitempty"`
	After    string `json:"after"`
}

// RejectView is a line that cannot be used, and why.
type RejectView struct {
	Line  int    `json:"line"`
	Words string `json:"words"`
}

// ImportCanned compares a CSV file with what there is and, if apply is set,
// stores what it adds and changes, all or nothing.
func (a *App) ImportCanned(ctx context.Context, o access.Actor, data []byte, apply bool) (ImportView, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return ImportView{}, err
	}
	rows, rejected, err := canned.Read(bytes.ToValidUTF8(data, []byte("\uFFFD")))
	if err != nil {
		return ImportView{}, refuse([]form.Wrong{{Field: "file", Words: "This file cannot be used: " + err.Error() + "."}})
	}
	rows, refused := s.owners(o, rows)
	have, err := a.store.CannedResponses(ctx)
	if err != nil {
		return ImportView{}, err
	}
	before := make([]canned.Response, len(have))
	versions := map[string]store.CannedResponse{}
	for i, r := range have {
		before[i], versions[r.ID] = r.Core(), r
	}
	plan := canned.Compare(before, rows, append(rejected, refused...))
	if apply {
		if err := a.store.SaveCanned(ctx, a.planned(plan, versions)...); err != nil {
			return ImportView{}, err
		}
		a.cannedChanged()
	}
	return importView(plan), nil
}

// owners fills in whose the responses of a file are.
func (s *setup) owners(o access.Actor, rows []canned.Row) (known []canned.Row, refused []canned.Reject) {
	for _, r := range rows {
		switch r.Response.Scope {
		case canned.Own:
			r.Response.Owner = o.ID
		case canned.Department:
			for _, d := range s.inUse {
				if strings.EqualFold(d.Name, r.Department) {
					r.Response.Owner = d.ID
				}
			}
			if r.Response.Owner == "" {
				refused = append(refused, canned.Reject{Line: r.Line, Words: "There is no department “" + r.Department + "”."})
				continue
			}
		}
		if !mayEdit(o, r.Response) {
			refused = append(refused, canned.Reject{Line: r.Line, Words: "Only leads can change shared responses. Use the scope own."})
			continue
		}
		known = append(known, r)
	}
	return known, refused
}

func (a *App) planned(plan canned.Plan, before map[string]store.CannedResponse) []store.CannedResponse {
	var rows []store.CannedResponse
	for _, r := range plan.Add {
		rows = append(rows, a.rowOf(r.Response, uuid.NewString()))
	}
	for _, c := range plan.Change {
		row := a.rowOf(c.After, c.After.ID)
		row.Version, row.FileIDs = before[row.ID].Version, before[row.ID].FileIDs
		rows = append(rows, row)
	}
	return rows
}

func (a *App) rowOf(r canned.Response, id string) store.CannedResponse {
	row := store.CannedResponse{ID: id, Scope: r.Scope, Shortcut: r.Shortcut, Text: r.Text, Folder: r.Folder, Language: r.Language, CreatedAt: a.now(), UpdatedAt: a.now()}
	if r.Owner != "" {
		row.OwnerID = &r.Owner
	}
	return row
}

func importView(p canned.Plan) ImportView {
	v := ImportView{Add: []ImportLine{}, Change: []ImportLine{}, Same: p.Same, Rejected: []RejectView{}}
	for _, r := range p.Add {
		v.Add = append(v.Add, ImportLine{Line: r.Line, Shortcut: r.Response.Shortcut, Language: r.Response.Language, Scope: string(r.Response.Scope), After: r.Response.Text})
	}
	for _, c := range p.Change {
		v.Change = append(v.Change, ImportLine{Line: c.Line, Shortcut: c.After.Shortcut, Language: c.After.Language, Scope: string(c.After.Scope), Before: c.Before.Text, After: c.After.Text})
	}
	for _, r := range p.Rejected {
		v.Rejected = append(v.Rejected, RejectView{Line: r.Line, Words: r.Words})
	}
	return v
}

// ForgetUses makes the next look at the counts of uses read them anew.
func (a *App) ForgetUses() {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.uses = uses{}
}
