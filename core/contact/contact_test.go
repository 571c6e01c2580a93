package contact_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/contact"
)

var fields = []contact.Field{{Name: "loyalty-card", Label: "Loyalty card"}}

var two = []contact.Person{
	{ID: "0190c2a4-7b1e-7c35-9a55-0f1e2d3c4b5a", Name: "Mirren Tolliver", Email: "mirren.tolliver@example.org", Phone: "01632 960 111", Company: "Tolliver, Reed & Sons", Fields: map[string]string{"loyalty-card": "=K-204, gold"}},
	{Name: "", Email: "", Phone: "01632 960 222", Fields: map[string]string{}},
}

func read(t *testing.T, text string) []contact.Row {
	t.Helper()
	rows, rejected, err := contact.ReadCards([]byte(text), fields)
	require.NoError(t, err)
	require.Empty(t, rejected)
	return rows
}

func TestWhatIsWrittenIsReadAgain(t *testing.T) {
	people := append([]contact.Person{}, two...)
	people = append(people, contact.Person{Name: strings.Repeat("Ängström ", 12) + "Ø", Email: "long@example.org", Fields: map[string]string{}})
	var csv, cards bytes.Buffer
	require.NoError(t, contact.WriteCSV(&csv, people, fields))
	require.NoError(t, contact.WriteCards(&cards, people, fields))
	fromCSV, unknown, rejected, err := contact.ReadCSV(csv.Bytes(), fields)
	require.NoError(t, err)
	require.Empty(t, unknown)
	require.Empty(t, rejected)
	require.True(t, contact.LooksLikeCards(cards.Bytes()))
	require.False(t, contact.LooksLikeCards(csv.Bytes()))
	for _, rows := range [][]contact.Row{fromCSV, read(t, cards.String())} {
		require.Len(t, rows, len(people))
		for i, row := range rows {
			require.Equal(t, people[i], row.Person)
		}
	}
	// RFC 4180: lines end with CR LF. OWASP, CSV Injection: no cell begins a formula.
	require.Equal(t, bytes.Count(csv.Bytes(), []byte("\n")), bytes.Count(csv.Bytes(), []byte("\r\n")))
	require.Contains(t, csv.String(), `"'=K-204, gold"`)
	// RFC 6350 3.2: no line is longer than 75 octets, and none breaks a character.
	for line := range strings.SplitSeq(cards.String(), "\r\n") {
		require.LessOrEqual(t, len(line), 75)
		require.True(t, strings.ToValidUTF8(line, "?") == line)
	}
	require.Equal(t, len(people), strings.Count(cards.String(), "\r\nVERSION:4.0\r\n"))
	require.Equal(t, len(people), strings.Count(cards.String(), "\r\nFN:"), "RFC 6350 6.2.1: a card must have a name")
}

// A card in the form of the example of RFC 6350, section 8 (shortened by what Stoop
// takes nothing from), with somebody invented.
const rfcExample = `BEGIN:VCARD
VERSION:4.0
FN:Nell Carraway
N:Carraway;Nell;;;
BDAY:--0203
GENDER:M
LANG;PREF=1:fr
ORG;TYPE=work:Carraway & Moss
TEL;VALUE=uri;TYPE="work,voice";PREF=1:tel:+44-1632-960-102;ext=102
TEL;VALUE=uri;TYPE="work,cell,voice,video,text":tel:+44-1632-960-103
EMAIL;TYPE=work:nell.carraway@example.org
GEO;TYPE=work:geo:56.1,-5.2
END:VCARD
`

func TestCardsOfElsewhere(t *testing.T) {
	p := read(t, strings.ReplaceAll(rfcExample, "\n", "\r\n"))[0].Person
	require.Equal(t, "Nell Carraway", p.Name)
	require.Equal(t, "nell.carraway@example.org", p.Email)
	require.Equal(t, "Carraway & Moss", p.Company)
	clean, wrong := contact.Clean(p)
	require.Empty(t, wrong)
	require.Equal(t, "+44-1632-960-102", clean.Phone)

	// RFC 6350 5.3: the least number is the most preferred. 3.2: folded lines join.
	p = read(t, "BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Nell\r\n  Carraway\r\nORG:Carraway\\; Moss;Sales\r\nEMAIL:b@example.org\r\nitem1.EMAIL;PREF=1:a@example.org\r\nEND:VCARD\r\n")[0].Person
	require.Equal(t, contact.Person{Name: "Nell Carraway", Email: "a@example.org", Company: "Carraway; Moss, Sales", Fields: map[string]string{}}, p)

	rows, rejected, err := contact.ReadCards([]byte("BEGIN:VCARD\nVERSION:2.1\nFN;ENCODING=QUOTED-PRINTABLE:J=C3=B8rn\nEND:VCARD\nBEGIN:VCARD\nVERSION:4.0\nFN:Whole\nEND:VCARD\nBEGIN:VCARD\nVERSION:4.0\nFN:Half"), fields)
	require.NoError(t, err)
	require.Len(t, rows, 1)
	require.Equal(t, "Whole", rows[0].Person.Name)
	require.Equal(t, []int{1, 3}, []int{rejected[0].Line, rejected[1].Line})
}

func TestTooMuchOfBoth(t *testing.T) {
	var csv, cards strings.Builder
	csv.WriteString("name\n")
	for i := range contact.Most + 1 {
		fmt.Fprintf(&csv, "N%d\n", i)
		fmt.Fprintf(&cards, "BEGIN:VCARD\nVERSION:4.0\nFN:N%d\nEND:VCARD\n", i)
	}
	_, _, _, err := contact.ReadCSV([]byte(csv.String()), nil)
	require.ErrorIs(t, err, contact.ErrTooMany)
	_, _, err = contact.ReadCards([]byte(cards.String()), nil)
	require.ErrorIs(t, err, contact.ErrTooMany)
	_, _, _, err = contact.ReadCSV([]byte("shortcut;text\na;b\n"), nil)
	require.ErrorIs(t, err, contact.ErrNotCSV)
	_, _, _, err = contact.ReadCSV(nil, nil)
	require.ErrorIs(t, err, contact.ErrNotCSV)
}

func TestColumnsThatNothingIsTakenFromAreTold(t *testing.T) {
	rows, unknown, _, err := contact.ReadCSV([]byte("Shoe size;EMAIL;Loyalty card\n44;a@example.org;K1\n"), fields)
	require.NoError(t, err)
	require.Equal(t, []string{"Shoe size"}, unknown)
	require.Equal(t, contact.Person{Email: "a@example.org", Fields: map[string]string{"loyalty-card": "K1"}}, rows[0].Person)
}

func row(number int, p contact.Person) contact.Row { return contact.Row{Number: number, Person: p} }

func TestWhatAFileWouldDo(t *testing.T) {
	have := []contact.Person{
		{ID: "1", Name: "Mirren", Email: "Mirren@example.org", Phone: "01632 960 111", Fields: map[string]string{"loyalty-card": "K1", "old": "kept"}},
		{ID: "2", Name: "Wren", Phone: "01632 960 222", Fields: map[string]string{}},
		{ID: "3", Name: "Tove", Email: "tove@example.org", Fields: map[string]string{}},
	}
	plan := contact.Compare(have, nil, []contact.Row{
		row(2, contact.Person{Email: "mirren@EXAMPLE.org", Company: "Reed"}),            // found by the email; what is empty stays
		row(3, contact.Person{Name: "WREN", Phone: "01632 960 222"}),                    // found by name and number, spelt otherwise
		row(4, contact.Person{ID: "3", Name: "Tove", Email: "tove@example.org"}),        // as it is
		row(5, contact.Person{ID: "9", Name: "Nell", Email: "nell@example.org"}),        // an id of elsewhere
		row(6, contact.Person{Name: "Nell again", Email: "Nell@example.org"}),           // twice in the file
		row(7, contact.Person{ID: "2", Name: "Wren", Email: "tove@example.org"}),        // somebody else's email
		row(8, contact.Person{Name: "Bad", Email: "no address", Phone: "nor a number"}), // both are said
		row(9, contact.Person{Company: "Nobody"}),                                       // nobody
		row(10, contact.Person{ID: "3", Email: "tove.new@example.org"}),                 // an id again
	}, nil)
	require.Len(t, plan.Change, 2)
	require.Equal(t, contact.Person{ID: "1", Name: "Mirren", Email: "mirren@EXAMPLE.org", Phone: "01632 960 111", Company: "Reed", Fields: map[string]string{"loyalty-card": "K1", "old": "kept"}}, plan.Change[0].After)
	require.Equal(t, "WREN", plan.Change[1].After.Name)
	require.Equal(t, 1, plan.Same)
	require.Len(t, plan.Add, 1)
	require.Empty(t, plan.Add[0].Person.ID)
	refused := map[int]int{}
	for _, r := range plan.Rejected {
		refused[r.Line] = len(r.Words)
	}
	require.Equal(t, map[int]int{6: 1, 7: 1, 8: 2, 9: 1, 10: 1}, refused)
}
