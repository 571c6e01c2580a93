package canned

import (
	"errors"
	"io"
	"slices"
	"strings"

	"stoop/core/spreadsheet"
)

// Columns of the CSV form (RFC 4180). The first two must be there; the order is
// free.
var Columns = []string{"shortcut", "text", "folder", "language", "scope", "department"}

// Row is a response as a CSV file gives it.
type Row struct {
	Line       int // where it begins, from 1
	Response   Response
	Department string // name, for the scope department

	noFolder, noLanguage bool // the file has no such column: what there is stays
}

// Reject is a line that could not be read, and why.
type Reject = spreadsheet.Reject

func reject(line int, words string, values ...any) Reject {
	return spreadsheet.Refuse(line, words, values...)
}

// ErrNotCSV: the file has no usable head line.
var ErrNotCSV = errors.New("the first line must name the columns: at least shortcut and text")

// Read reads responses from a CSV file (RFC 4180, UTF-8, with a head line).
// Fields may be separated by semicolons or tabs too, as spreadsheets write them
// in many countries. Lines that cannot be read are returned beside the others.
func Read(data []byte) ([]Row, []Reject, error) {
	table, rejects, err := spreadsheet.Read(data)
	if err != nil {
		return nil, nil, err
	}
	if !table.Has("shortcut") || !table.Has("text") {
		return nil, nil, ErrNotCSV
	}
	var rows []Row
	for _, line := range table.Lines {
		get := line.Cell
		scope := Scope(strings.ToLower(strings.TrimSpace(get("scope"))))
		if scope == "" {
			scope = Common
		}
		rows = append(rows, Row{Line: line.Number, noFolder: !table.Has("folder"), noLanguage: !table.Has("language"), Department: strings.TrimSpace(get("department")), Response: Response{
			Shortcut: strings.TrimSpace(get("shortcut")), Text: strings.TrimSpace(strings.ReplaceAll(get("text"), "\r\n", "\n")),
			Folder: strings.TrimSpace(get("folder")), Language: CleanLanguage(get("language")), Scope: scope,
		}})
	}
	return rows, rejects, nil
}

// Write writes responses as a CSV file; departments gives a department's name.
func Write(w io.Writer, responses []Response, department func(id string) string) error {
	lines := make([][]string, len(responses))
	for i, r := range responses {
		name := ""
		if r.Scope == Department {
			name = department(r.Owner)
		}
		lines[i] = []string{r.Shortcut, r.Text, r.Folder, r.Language, string(r.Scope), name}
	}
	return spreadsheet.Write(w, Columns, lines)
}

// Change is one response that a file would change.
type Change struct {
	Line          int
	Before, After Response
}

// Plan is what importing a file would do.
type Plan struct {
	Add      []Row
	Change   []Change
	Same     int
	Rejected []Reject
}

// Compare returns what a file's rows would do to the responses there are. Rows
// must have their owner filled in. Nothing is ever removed by a file.
func Compare(have []Response, rows []Row, rejected []Reject) Plan {
	p := Plan{Rejected: slices.Clone(rejected)}
	there, languages := map[Response]Response{}, map[Response][]string{}
	for _, r := range have {
		there[key(r)] = r
		languages[withoutLanguage(r)] = append(languages[withoutLanguage(r)], r.Language)
	}
	seen := map[Response]int{}
	for _, row := range rows {
		r := row.Response
		if known := languages[withoutLanguage(r)]; row.noLanguage && len(known) > 0 && !slices.Contains(known, "") {
			if len(known) > 1 { // which of them is meant, the file does not say
				slices.Sort(known)
				p.Rejected = append(p.Rejected, reject(row.Line, "There are answers of this shortcut in %s. Add a column language to the file, to say which one it is.", strings.Join(known, ", ")))
				continue
			}
			r.Language = known[0]
		}
		if known, ok := there[key(r)]; ok && row.noFolder {
			r.Folder = known.Folder
		}
		if wrong := r.Check(); len(wrong) > 0 {
			words := make([]string, len(wrong))
			for i, w := range wrong {
				words[i] = w.Words
			}
			p.Rejected = append(p.Rejected, Reject{Line: row.Line, Words: words})
			continue
		}
		if line, doubled := seen[key(r)]; doubled {
			p.Rejected = append(p.Rejected, reject(row.Line, "Line %d has the same shortcut for the same people.", line))
			continue
		}
		seen[key(r)] = row.Line
		before, known := there[key(r)]
		switch {
		case !known:
			row.Response = r
			p.Add = append(p.Add, row)
		case before.Text == r.Text && before.Folder == r.Folder:
			p.Same++
		default:
			r.ID = before.ID
			p.Change = append(p.Change, Change{row.Line, before, r})
		}
	}
	slices.SortStableFunc(p.Rejected, func(a, b Reject) int { return a.Line - b.Line })
	return p
}

// key is what tells responses apart when they come from a file.
func key(r Response) Response {
	return Response{Shortcut: strings.ToLower(r.Shortcut), Language: strings.ToLower(r.Language), Scope: r.Scope, Owner: r.Owner}
}

func withoutLanguage(r Response) Response {
	r.Language = ""
	return key(r)
}
