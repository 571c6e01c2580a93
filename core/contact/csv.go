package contact

import (
	"errors"
	"io"
	"strings"

	"stoop/core/spreadsheet"
)

// Columns of the CSV form. The team's own fields follow, under what people call
// them. The order is free, and one of name, email and phone must be there.
var Columns = []string{"id", "name", "email", "phone", "company"}

// ErrNotCSV: the file has no usable head line.
var ErrNotCSV = errors.New("the first line must name the columns: name, email or phone at least")

// ReadCSV reads contacts from a CSV file. Columns that are not known are left out,
// and returned, so that nobody believes that they were taken.
func ReadCSV(data []byte, fields []Field) (rows []Row, unknown []string, rejected []spreadsheet.Reject, err error) {
	table, rejected, err := spreadsheet.Read(data)
	if err != nil {
		return nil, nil, nil, err
	}
	if !table.Has("name") && !table.Has("email") && !table.Has("phone") {
		return nil, nil, nil, ErrNotCSV
	}
	if len(table.Lines) > Most {
		return nil, nil, nil, ErrTooMany
	}
	known := map[string]bool{}
	for _, column := range Columns {
		known[column] = true
	}
	for _, f := range fields {
		known[strings.ToLower(f.Label)], known[strings.ToLower(f.Name)] = true, true
	}
	for _, column := range table.Columns {
		if name := strings.TrimSpace(column); name != "" && !known[strings.ToLower(name)] {
			unknown = append(unknown, name)
		}
	}
	for _, line := range table.Lines {
		p := Person{ID: strings.TrimSpace(line.Cell("id")), Name: line.Cell("name"), Email: line.Cell("email"), Phone: line.Cell("phone"), Company: line.Cell("company"), Fields: map[string]string{}}
		for _, f := range fields {
			value := line.Cell(f.Label)
			if value == "" {
				value = line.Cell(f.Name)
			}
			if value != "" {
				p.Fields[f.Name] = value
			}
		}
		rows = append(rows, Row{line.Number, p})
	}
	return rows, unknown, rejected, nil
}

// WriteCSV writes contacts as a CSV file.
func WriteCSV(w io.Writer, people []Person, fields []Field) error {
	columns := append([]string{}, Columns...)
	for _, f := range fields {
		columns = append(columns, f.Label)
	}
	lines := make([][]string, len(people))
	for i, p := range people {
		lines[i] = []string{p.ID, p.Name, p.Email, p.Phone, p.Company}
		for _, f := range fields {
			lines[i] = append(lines[i], p.Fields[f.Name])
		}
	}
	return spreadsheet.Write(w, columns, lines)
}
