package export

import (
	"archive/zip"
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"stoop/core/spreadsheet"
)

// Format is how transcripts are written.
type Format string

// The formats. Of one chat each is one file; of many, JSON Lines and CSV are, and the
// others are a file for each chat in a ZIP archive.
const (
	Text  Format = "text"
	JSON  Format = "json"
	Lines Format = "jsonl"
	CSV   Format = "csv"
	HTML  Format = "html"
	Mail  Format = "eml"
)

// Formats are all of them.
var Formats = []Format{Text, JSON, Lines, CSV, HTML, Mail}

// Extension is the end of the names of such files.
func (f Format) Extension() string {
	if f == Text {
		return "txt"
	}
	return string(f)
}

// ContentType is the media type of one such file.
func (f Format) ContentType() string {
	return map[Format]string{
		Text: "text/plain; charset=utf-8", JSON: "application/json", Lines: "application/x-ndjson", CSV: "text/csv; charset=utf-8",
		HTML: "text/html; charset=utf-8", Mail: "message/rfc822",
	}[f]
}

// Single reports whether many chats are one file.
func (f Format) Single() bool { return f == Lines || f == CSV }

// One writes one transcript.
func One(w io.Writer, f Format, t Transcript) error {
	switch f {
	case Text:
		return writeText(w, t)
	case JSON:
		e := json.NewEncoder(w)
		e.SetIndent("", "  ")
		e.SetEscapeHTML(false)
		return e.Encode(t)
	case HTML:
		return writeHTML(w, t)
	case Mail:
		return writeMail(w, t)
	}
	m, err := NewMany(w, f)
	if err != nil {
		return err
	}
	if err := m.Add(t); err != nil {
		return err
	}
	return m.Close()
}

// Many writes many transcripts one after the other, and holds none of them.
type Many struct {
	format Format
	out    *bufio.Writer
	zip    *zip.Writer
	n      int
}

// NewMany begins to write many transcripts.
func NewMany(w io.Writer, f Format) (*Many, error) {
	m := &Many{format: f, out: bufio.NewWriter(w)}
	switch {
	case f == CSV:
		return m, spreadsheet.Write(m.out, csvColumns, nil)
	case !f.Single():
		m.zip = zip.NewWriter(m.out)
	}
	return m, nil
}

// Name is what the whole of it is called, without a folder.
func (m *Many) Name(day time.Time) string {
	end := "zip"
	if m.format.Single() {
		end = m.format.Extension()
	}
	return "transcripts-" + day.Format(time.DateOnly) + "." + end
}

// Add writes one more.
func (m *Many) Add(t Transcript) error {
	m.n++
	switch m.format {
	case Lines:
		e := json.NewEncoder(m.out)
		e.SetEscapeHTML(false)
		return e.Encode(t)
	case CSV:
		return spreadsheet.WriteLines(m.out, csvLines(t))
	}
	name := fmt.Sprintf("%s-%s.%s", t.Started.UTC().Format("2006-01-02-1504"), t.ID, m.format.Extension())
	w, err := m.zip.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: t.Started})
	if err != nil {
		return err
	}
	return One(w, m.format, t)
}

// Close ends the file.
func (m *Many) Close() error {
	if m.zip != nil {
		if err := m.zip.Close(); err != nil {
			return err
		}
	}
	return m.out.Flush()
}

// csvColumns are those of a CSV file: a line for each message, with its chat.
var csvColumns = []string{
	"chat", "started", "ended", "ending", "site", "department", "visitor", "email", "operators", "tags", "outcome", "sale", "currency", "rating",
	"number", "at", "kind", "side", "name", "text", "file", "translation",
}

func csvLines(t Transcript) [][]string {
	ended, sale, currency, rating := "", "", "", ""
	if t.Ended != nil {
		ended = t.Ended.UTC().Format(time.RFC3339)
	}
	if t.Sale != nil {
		sale, currency = strconv.FormatInt(t.Sale.Cents, 10), t.Sale.Currency
	}
	if t.Rating > 0 {
		rating = strconv.Itoa(t.Rating)
	}
	lines := make([][]string, len(t.Lines))
	for i, l := range t.Lines {
		file, translation := "", ""
		if l.Translation != nil {
			translation = l.Translation.Text
		}
		if l.File != nil {
			file = l.File.Title()
		}
		lines[i] = []string{
			t.ID, t.Started.UTC().Format(time.RFC3339), ended, t.Ending, t.Site, t.Department, t.Visitor.Name, t.Visitor.Email,
			strings.Join(t.Operators, "; "), strings.Join(t.Tags, "; "), t.Outcome, sale, currency, rating,
			strconv.FormatInt(l.Number, 10), l.At.UTC().Format(time.RFC3339), l.Kind, l.Side, l.Name, l.Text, file, translation,
		}
	}
	return lines
}

func writeText(w io.Writer, t Transcript) error {
	b := bufio.NewWriter(w)
	fmt.Fprintln(b, t.Title())
	for _, fact := range t.facts() {
		fmt.Fprintf(b, "%s: %s\n", fact[0], fact[1])
	}
	fmt.Fprintln(b)
	for _, l := range t.Lines {
		at := l.At.In(t.location()).Format("15:04")
		switch {
		case l.Kind == Happened:
			fmt.Fprintf(b, "[%s] %s\n", at, l.Text)
		case l.Kind == Noted:
			fmt.Fprintf(b, "[%s] Note for the team by %s: %s\n", at, l.Name, indented(l.Text))
		case l.File != nil:
			fmt.Fprintf(b, "[%s] %s: (file) %s\n", at, l.Name, l.File.Title())
			if l.Text != "" {
				fmt.Fprintf(b, "    %s\n", indented(l.Text))
			}
		default:
			fmt.Fprintf(b, "[%s] %s: %s\n", at, l.Name, indented(l.Text))
		}
		if l.Translation != nil {
			fmt.Fprintf(b, "    (%s) %s\n", l.Translation.Language, indented(l.Translation.Text))
		}
	}
	return b.Flush()
}

// indented lets further lines of a message stand to the right: none can pass for somebody
// else's.
func indented(text string) string { return strings.ReplaceAll(text, "\n", "\n    ") }

// facts are what is known of the chat besides its words.
func (t Transcript) facts() [][2]string {
	list := [][2]string{{"Site", t.Site}, {"Department", t.Department}}
	add := func(name, value string) {
		if value != "" {
			list = append(list, [2]string{name, value})
		}
	}
	add("Email", t.Visitor.Email)
	add("Phone", t.Visitor.Phone)
	add("Operators", strings.Join(t.Operators, ", "))
	add("Page", t.Page)
	if t.Ended != nil {
		add("Ended", t.Ended.In(t.location()).Format("2 January 2006, 15:04")+" ("+t.Ending+")")
	}
	add("Outcome", t.Outcome)
	add("Tags", strings.Join(t.Tags, ", "))
	add("Summary", t.Summary)
	if t.Rating > 0 {
		add("Rating", strings.TrimSpace(fmt.Sprintf("%d of 5 %s", t.Rating, t.RatedWords)))
	}
	return list
}
