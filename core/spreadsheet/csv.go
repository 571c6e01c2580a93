// Package spreadsheet reads and writes tables as CSV (RFC 4180), as spreadsheets
// write them in many countries.
package spreadsheet

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
)

// Reject is a line that could not be read, and why, in a sentence or several.
type Reject struct {
	Line  int
	Words []string
}

// Refuse returns why a line could not be read.
func Refuse(line int, words string, values ...any) Reject {
	return Reject{line, []string{fmt.Sprintf(words, values...)}}
}

// rejectLimit bounds how many lines are told apart: a file of which more is
// wrong is the wrong file.
const rejectLimit = 500

// ErrTooManyWrong: so much is wrong that nothing of the file should be used.
var ErrTooManyWrong = fmt.Errorf("more than %d lines are wrong", rejectLimit)

// Table is what a file says, line by line.
type Table struct {
	Columns []string // as the head line names them
	Lines   []Line
	place   map[string]int
}

// Has reports whether there is a column, whatever the case of its name.
func (t Table) Has(column string) bool {
	_, ok := t.place[strings.ToLower(column)]
	return ok
}

// Line is one line of a table.
type Line struct {
	Number int // where it begins, from 1
	cells  []string
	place  map[string]int
}

// Cell returns what stands in a column; "" if there is no such column.
func (l Line) Cell(column string) string {
	if i, ok := l.place[strings.ToLower(column)]; ok {
		return harmed(l.cells[i])
	}
	return ""
}

// Read reads a CSV file (RFC 4180, UTF-8, with a head line). Fields may be separated
// by semicolons or tabs too. Lines that cannot be read are returned beside the others;
// an empty file is a table without columns.
func Read(data []byte) (Table, []Reject, error) {
	data = bytes.TrimPrefix(data, []byte("\ufeff"))
	records, rejects, err := records(data, separator(data))
	if err != nil {
		return Table{}, nil, err
	}
	if len(records) == 0 {
		return Table{}, rejects, nil
	}
	t := Table{Columns: records[0].fields, place: map[string]int{}}
	for i, name := range t.Columns {
		t.place[strings.ToLower(strings.TrimSpace(name))] = i
	}
	for _, record := range records[1:] {
		if len(record.fields) != len(t.Columns) {
			rejects = append(rejects, Refuse(record.line, "It has %d fields, the head line %d.", len(record.fields), len(t.Columns)))
			continue
		}
		t.Lines = append(t.Lines, Line{Number: record.line, cells: record.fields, place: t.place})
	}
	slices.SortStableFunc(rejects, func(a, b Reject) int { return a.Line - b.Line })
	return t, rejects, nil
}

// Write writes a table with its head line.
func Write(w io.Writer, columns []string, lines [][]string) error {
	return WriteLines(w, slices.Concat([][]string{columns}, lines))
}

// WriteLines writes lines of a table without a head line.
func WriteLines(w io.Writer, lines [][]string) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	for _, cells := range lines {
		written := make([]string, len(cells))
		for i, cell := range cells {
			written[i] = harmless(cell)
		}
		if err := out.Write(written); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
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
				rejects = append(rejects, Refuse(skipped+parse.StartLine, "%s", brokenWords(parse)))
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
