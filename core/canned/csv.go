package canned

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
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

// Reject is a line that could not be read, and why, in a sentence or several.
type Reject struct {
	Line  int
	Words []string
}

func reject(line int, words string, values ...any) Reject {
	return Reject{line, []string{fmt.Sprintf(words, values...)}}
}

// rejectLimit bounds how many lines are told apart: a file of which more is
// wrong is the wrong file.
const rejectLimit = 500

// ErrNotCSV: the file has no usable head line.
var ErrNotCSV = errors.New("the first line must name the columns: at least shortcut and text")

// ErrTooManyWrong: so much is wrong that nothing of the file should be used.
var ErrTooManyWrong = fmt.Errorf("more than %d lines are wrong", rejectLimit)

// Read reads responses from a CSV file (RFC 4180, UTF-8, with a head line).
// Fields may be separated by semicolons or tabs too, as spreadsheets write them
// in many countries. Lines that cannot be read are returned beside the others.
func Read(data []byte) ([]Row, []Reject, error) {
	data = bytes.TrimPrefix(data, []byte("\ufeff"))
	records, rejects, err := records(data, separator(data))
	if err != nil {
		return nil, nil, err
	}
	if len(records) == 0 {
		return nil, nil, ErrNotCSV
	}
	place := map[string]int{}
	for i, name := range records[0].fields {
		place[strings.ToLower(strings.TrimSpace(name))] = i
	}
	if _, ok := place["shortcut"]; !ok {
		return nil, nil, ErrNotCSV
	}
	if _, ok := place["text"]; !ok {
		return nil, nil, ErrNotCSV
	}
	var rows []Row
	for _, record := range records[1:] {
		if len(record.fields) != len(records[0].fields) {
			rejects = append(rejects, reject(record.line, "It has %d fields, the head line %d.", len(record.fields), len(records[0].fields)))
			continue
		}
		get := func(name string) string {
			if i, ok := place[name]; ok {
				return harmed(record.fields[i])
			}
			return ""
		}
		scope := Scope(strings.ToLower(strings.TrimSpace(get("scope"))))
		if scope == "" {
			scope = Common
		}
		_, hasFolder := place["folder"]
		_, hasLanguage := place["language"]
		rows = append(rows, Row{Line: record.line, noFolder: !hasFolder, noLanguage: !hasLanguage, Department: strings.TrimSpace(get("department")), Response: Response{
			Shortcut: strings.TrimSpace(get("shortcut")), Text: strings.TrimSpace(strings.ReplaceAll(get("text"), "\r\n", "\n")),
			Folder: strings.TrimSpace(get("folder")), Language: CleanLanguage(get("language")), Scope: scope,
		}})
	}
	slices.SortStableFunc(rejects, func(a, b Reject) int { return a.Line - b.Line })
	return rows, rejects, nil
}

// separator returns what separates the columns' names in the head line.
func separator(data []byte) rune {
	head, _, _ := bytes.Cut(data, []byte("\n"))
	best, most := ',', 0
	for _, c := range []rune{',', ';', '\t'} {
		if n := strings.Count(string(head), string(c)); n > most {
			best, most = c, n
		}
	}
	return best
}

// Spreadsheets take a cell that begins with one of these for a formula and run
// it. It is written with an apostrophe before it, which spreadsheets take for
// "this is text", and read without (OWASP, CSV Injection).
const formula = "=+-@\t\r"

func beginsFormula(cell string) bool {
	rest := strings.TrimLeft(cell, "'")
	return rest != "" && strings.ContainsRune(formula, rune(rest[0]))
}

// harmless returns a cell as it is written.
func harmless(cell string) string {
	if beginsFormula(cell) {
		return "'" + cell
	}
	return cell
}

// harmed returns a cell as it was before it was made harmless.
func harmed(cell string) string {
	if strings.HasPrefix(cell, "'") && beginsFormula(cell) {
		return cell[1:]
	}
	return cell
}

type record struct {
	line   int
	fields []string
}

// records reads a file record by record. After one that is broken it goes on
// with the next line: a quote that is never closed must not swallow the rest.
func records(data []byte, separator rune) (list []record, rejects []Reject, err error) {
	skipped := 0 // lines before the part that is being read
	for {
		reader := csv.NewReader(bytes.NewReader(data))
		reader.FieldsPerRecord, reader.Comma = -1, separator
		again := false
		for !again {
			fields, err := reader.Read()
			if errors.Is(err, io.EOF) {
				return list, rejects, nil
			}
			var parse *csv.ParseError
			if errors.As(err, &parse) {
				rejects = append(rejects, reject(skipped+parse.StartLine, "%s", brokenWords(parse)))
				if len(rejects) > rejectLimit {
					return nil, nil, ErrTooManyWrong
				}
				data, skipped, again = afterLine(data, parse.StartLine), skipped+parse.StartLine, true
				continue
			}
			if err != nil {
				return nil, nil, err
			}
			line, _ := reader.FieldPos(0)
			list = append(list, record{skipped + line, fields})
		}
	}
}

func brokenWords(e *csv.ParseError) string {
	if errors.Is(e.Err, csv.ErrBareQuote) {
		return "A quotation mark stands in a field that does not begin with one. Put the field in quotation marks and double those within."
	}
	return "A quotation mark that opens a field is not closed, or something follows the closing one."
}

// afterLine returns what follows the n-th line.
func afterLine(data []byte, n int) []byte {
	for range n {
		at := bytes.IndexByte(data, '\n')
		if at < 0 {
			return nil
		}
		data = data[at+1:]
	}
	return data
}

// Write writes responses as a CSV file; departments gives a department's name.
func Write(w io.Writer, responses []Response, department func(id string) string) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	if err := out.Write(Columns); err != nil {
		return err
	}
	for _, r := range responses {
		name := ""
		if r.Scope == Department {
			name = department(r.Owner)
		}
		if err := out.Write([]string{harmless(r.Shortcut), harmless(r.Text), harmless(r.Folder), harmless(r.Language), string(r.Scope), harmless(name)}); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
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
			p.Rejected = append(p.Rejected, Reject{row.Line, words})
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
