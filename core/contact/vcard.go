package contact

import (
	"bytes"
	"cmp"
	"errors"
	"io"
	"strings"
	"unicode/utf8"

	"github.com/emersion/go-vcard"

	"stoop/core/spreadsheet"
)

// LooksLikeCards reports whether a file is one of vCards.
func LooksLikeCards(data []byte) bool {
	data = bytes.TrimLeft(bytes.TrimPrefix(data, []byte("\ufeff")), " \t\r\n")
	return len(data) >= 11 && strings.EqualFold(string(data[:11]), "BEGIN:VCARD")
}

// ownPrefix begins the names of the team's own fields in a card (RFC 6350 3.3,
// x-name).
const ownPrefix = "X-STOOP-"

// uuidURN is how a card says an id (RFC 6350 6.7.6, RFC 4122).
const uuidURN = "urn:uuid:"

// ReadCards reads contacts from vCards (RFC 6350; of version 3 what both have).
// Of several emails and numbers the preferred one is taken, else the first.
func ReadCards(data []byte, fields []Field) (rows []Row, rejected []spreadsheet.Reject, err error) {
	decoder := vcard.NewDecoder(bytes.NewReader(bytes.TrimPrefix(data, []byte("\ufeff"))))
	for number := 1; ; number++ {
		card, err := decoder.Decode()
		switch {
		case errors.Is(err, io.EOF):
			return rows, rejected, nil
		case err != nil: // what follows cannot be told apart
			return rows, append(rejected, spreadsheet.Refuse(number, "The file breaks off or goes wrong here; what follows was not read.")), nil
		case number > Most:
			return nil, nil, ErrTooMany
		case !strings.HasPrefix(card.Value(vcard.FieldVersion), "3") && !strings.HasPrefix(card.Value(vcard.FieldVersion), "4"):
			rejected = append(rejected, spreadsheet.Refuse(number, "It is not a vCard of version 3 or 4. Save it as one of these."))
		default:
			rows = append(rows, Row{number, personOf(card, fields)})
		}
	}
}

func personOf(card vcard.Card, fields []Field) Person {
	p := Person{
		ID:      strings.TrimPrefix(strings.ToLower(card.Value(vcard.FieldUID)), uuidURN),
		Name:    plain(card.PreferredValue(vcard.FieldFormattedName)),
		Email:   strings.TrimPrefix(plain(card.PreferredValue(vcard.FieldEmail)), "mailto:"),
		Phone:   number(plain(card.PreferredValue(vcard.FieldTelephone))),
		Company: company(card.PreferredValue(vcard.FieldOrganization)),
		Fields:  map[string]string{},
	}
	if p.Name == p.Email || p.Name == p.Phone { // a card must have a name, even of somebody who has none
		p.Name = ""
	}
	for _, f := range fields {
		if value := plain(card.Value(ownPrefix + strings.ToUpper(f.Name))); value != "" {
			p.Fields[f.Name] = value
		}
	}
	return p
}

// number returns a phone number, which a card may give as an address (RFC 3966); its
// parameters, like an extension, are not kept.
func number(text string) string {
	if uri, is := strings.CutPrefix(text, "tel:"); is {
		text, _, _ = strings.Cut(uri, ";")
	}
	return text
}

// plain undoes what the reader leaves of a text: RFC 6350 3.4 lets semicolons be
// written with a backslash anywhere, and line breaks with a capital N.
func plain(text string) string { return strings.NewReplacer(`\;`, ";", `\N`, " ").Replace(text) }

// company returns an organization with its units, which semicolons separate
// (RFC 6350 6.6.4).
func company(text string) string {
	const kept = "\x00"
	var parts []string
	for part := range strings.SplitSeq(strings.ReplaceAll(text, `\;`, kept), ";") {
		if part = strings.TrimSpace(strings.ReplaceAll(part, kept, ";")); part != "" {
			parts = append(parts, part)
		}
	}
	return strings.Join(parts, ", ")
}

// WriteCards writes contacts as vCards of version 4 (RFC 6350).
func WriteCards(w io.Writer, people []Person, fields []Field) error {
	for _, p := range people {
		var card bytes.Buffer
		if err := vcard.NewEncoder(&card).Encode(cardOf(p, fields)); err != nil {
			return err
		}
		if _, err := w.Write(folded(card.Bytes())); err != nil {
			return err
		}
	}
	return nil
}

func cardOf(p Person, fields []Field) vcard.Card {
	card := vcard.Card{}
	put := func(name, value string) {
		if value != "" {
			card.SetValue(name, value)
		}
	}
	put(vcard.FieldVersion, "4.0")
	put(vcard.FieldFormattedName, cmp.Or(p.Name, p.Email, p.Phone))
	put(vcard.FieldEmail, p.Email)
	put(vcard.FieldTelephone, p.Phone)
	// A semicolon would begin a unit of the company.
	put(vcard.FieldOrganization, strings.ReplaceAll(p.Company, ";", ","))
	if p.ID != "" {
		put(vcard.FieldUID, uuidURN+p.ID)
	}
	for _, f := range fields {
		put(ownPrefix+strings.ToUpper(f.Name), p.Fields[f.Name])
	}
	return card
}

// folded breaks lines of more than 75 octets, never within a character (RFC 6350 3.2).
func folded(text []byte) []byte {
	const longest = 75
	var out bytes.Buffer
	for line := range bytes.SplitAfterSeq(text, []byte("\r\n")) {
		room := longest
		for len(line) > room+2 { // the line's end does not count
			cut := room
			for !utf8.RuneStart(line[cut]) {
				cut--
			}
			out.Write(line[:cut])
			out.WriteString("\r\n ")
			line, room = line[cut:], longest-1
		}
		out.Write(line)
	}
	return out.Bytes()
}
