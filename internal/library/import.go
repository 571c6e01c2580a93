package library

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/canned"
	"stoop/core/form"
	"stoop/internal/setup/settings"
)

// ExportCanned writes the responses that somebody may use as CSV.
func (room *Room) ExportCanned(ctx context.Context, o access.Actor, w io.Writer) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	rows, err := room.Tables.CannedResponses(ctx)
	if err != nil {
		return err
	}
	var responses []canned.Response
	for _, r := range rows {
		if mayUse(o, r) {
			responses = append(responses, r.Core())
		}
	}
	return canned.Write(w, responses, func(id string) string { return s.Departments[id].Name })
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
	Line  int      `json:"line"`
	Words []string `json:"words" doc:"Each a sentence"`
}

// ImportCanned compares a CSV file with what there is and, if apply is set,
// stores what it adds and changes, all or nothing.
func (room *Room) ImportCanned(ctx context.Context, o access.Actor, data []byte, apply bool) (ImportView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return ImportView{}, err
	}
	rows, rejected, err := canned.Read(bytes.ToValidUTF8(data, []byte("\uFFFD")))
	if err != nil {
		return ImportView{}, form.Refuse([]form.Wrong{{Field: "file", Words: fmt.Sprintf("This file cannot be used: %s.", err)}})
	}
	rows, refused := owners(s, o, rows)
	have, err := room.Tables.CannedResponses(ctx)
	if err != nil {
		return ImportView{}, err
	}
	before := make([]canned.Response, len(have))
	versions := map[string]CannedResponse{}
	for i, r := range have {
		before[i], versions[r.ID] = r.Core(), r
	}
	plan := canned.Compare(before, rows, append(rejected, refused...))
	if apply {
		if err := room.Tables.SaveCanned(ctx, room.planned(plan, versions)...); err != nil {
			return ImportView{}, err
		}
		room.cannedChanged()
	}
	return importView(plan), nil
}

// owners fills in whose the responses of a file are.
func owners(s *settings.Settings, o access.Actor, rows []canned.Row) (known []canned.Row, refused []canned.Reject) {
	for _, r := range rows {
		switch r.Response.Scope {
		case canned.Own:
			r.Response.Owner = o.ID
		case canned.Department:
			for _, d := range s.InUse {
				if strings.EqualFold(d.Name, r.Department) {
					r.Response.Owner = d.ID
				}
			}
			if r.Response.Owner == "" {
				refused = append(refused, canned.Reject{Line: r.Line, Words: []string{fmt.Sprintf("There is no department “%s”.", r.Department)}})
				continue
			}
		}
		if !mayEdit(o, r.Response) {
			refused = append(refused, canned.Reject{Line: r.Line, Words: []string{"Only leads can change shared responses. Use the scope own."}})
			continue
		}
		known = append(known, r)
	}
	return known, refused
}

func (room *Room) planned(plan canned.Plan, before map[string]CannedResponse) []CannedResponse {
	var rows []CannedResponse
	for _, r := range plan.Add {
		rows = append(rows, room.rowOf(r.Response, uuid.NewString()))
	}
	for _, c := range plan.Change {
		row := room.rowOf(c.After, c.After.ID)
		row.Version, row.FileIDs = before[row.ID].Version, before[row.ID].FileIDs
		rows = append(rows, row)
	}
	return rows
}

func (room *Room) rowOf(r canned.Response, id string) CannedResponse {
	row := CannedResponse{ID: id, Scope: r.Scope, Shortcut: r.Shortcut, Text: r.Text, Folder: r.Folder, Language: r.Language, CreatedAt: room.Now(), UpdatedAt: room.Now()}
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
