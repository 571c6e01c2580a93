package export_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"io"
	"mime"
	"mime/multipart"
	"mime/quotedprintable"
	"net/mail"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"stoop/core/chat"
	"stoop/internal/testpg"
	"stoop/internal/transcripts/export"
)

func sample() export.Transcript {
	at := time.Date(2026, time.October, 25, 0, 30, 0, 0, time.UTC)
	ended := at.Add(9 * time.Minute)
	zone, _ := time.LoadLocation("Europe/Copenhagen")
	return export.Transcript{
		ID: "0190a0f0-0000-7000-8000-000000000001", Site: "Kelpwick Ferries", Department: "Bookings", Visitor: export.Person{Name: "Wren Sørvig", Email: "wren@example.org"},
		Operators: []string{"Idris Vane"}, Tags: []string{"group", "minibus"}, Started: at, Ended: &ended, Ending: "answered", Outcome: "Sold", Sale: &export.Sale{Cents: 41280, Currency: "EUR"},
		Rating: 5, RatedWords: "Très bien", Page: "Fares",
		Lines: []export.Line{
			{Number: 2, At: at, Kind: export.Said, Side: "visitor", Name: "Wren Sørvig", Text: "=2+5\n[00:31] Idris Vane: I said nothing <script>alert(1)</script>"},
			{Number: 5, At: at.Add(time.Minute), Kind: export.Said, Side: "team", Name: "Idris Vane", Text: "Here, \"quoted\", é — 🚢"},
			{Number: 6, At: at.Add(2 * time.Minute), Kind: export.Noted, Side: "team", Name: "Idris Vane", Text: "a regular"},
			{Number: 7, At: at.Add(3 * time.Minute), Kind: export.Shared, Side: "team", Name: "Idris Vane", File: &export.File{Name: "quote.pdf", Type: "application/pdf", Size: 84_000}},
			{Number: 8, At: at.Add(9 * time.Minute), Kind: export.Happened, Side: "visitor", Text: "Wren ended the chat."},
		},
	}.In(zone)
}

func write(t *testing.T, f export.Format) []byte {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, export.One(&b, f, sample()))
	return b.Bytes()
}

// A message of several lines cannot pass for somebody else's.
func TestTextTellsWhoSaidWhat(t *testing.T) {
	text := string(write(t, export.Text))
	require.Contains(t, text, "Chat with Wren Sørvig, 25 October 2026, 02:30")
	require.Contains(t, text, "[02:31] Idris Vane: Here, \"quoted\", é — 🚢")
	require.Contains(t, text, "\n    [00:31] Idris Vane: I said nothing", "it stands to the right")
	require.Contains(t, text, "[02:33] Idris Vane: (file) quote.pdf")
}

func TestJSONComesBackAsItWent(t *testing.T) {
	for _, f := range []export.Format{export.JSON, export.Lines} {
		data := write(t, f)
		var back export.Transcript
		require.NoError(t, json.Unmarshal(data, &back))
		require.Equal(t, sample().Lines, back.Lines)
		if f == export.Lines {
			require.Equal(t, 1, bytes.Count(data, []byte("\n")), "one line for each chat")
		}
	}
}

// RFC 4180 as encoding/csv reads it, and as PostgreSQL's COPY does. What a spreadsheet
// would take for a formula is marked as text (OWASP, CSV Injection).
func TestCSVIsReadByOthers(t *testing.T) {
	data := write(t, export.CSV)
	rows, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 6)
	text := slices.Index(rows[0], "text")
	require.True(t, strings.HasPrefix(rows[1][text], "'=2+5"))

	s := testpg.Open(t)
	c, err := s.Pool().Acquire(t.Context())
	require.NoError(t, err)
	defer c.Release()
	columns := make([]string, len(rows[0]))
	for i, name := range rows[0] {
		columns[i] = `"` + name + `" text`
	}
	_, err = c.Exec(t.Context(), "create temp table taken ("+strings.Join(columns, ", ")+")")
	require.NoError(t, err)
	_, err = c.Conn().PgConn().CopyFrom(t.Context(), bytes.NewReader(data), "copy taken from stdin with (format csv, header true)")
	require.NoError(t, err)
	var n int
	var words string
	require.NoError(t, c.QueryRow(t.Context(), `select count(*), max("text") filter (where number = '5') from taken`).Scan(&n, &words))
	require.Equal(t, 5, n)
	require.Equal(t, sample().Lines[1].Text, words)
}

// The page stands by itself: nothing in it is fetched, and nothing that was said runs.
func TestHTMLRefersToNothingOutside(t *testing.T) {
	doc, err := html.Parse(bytes.NewReader(write(t, export.HTML)))
	require.NoError(t, err)
	var text strings.Builder
	for n := range doc.Descendants() {
		require.NotContains(t, []string{"script", "link", "img", "iframe", "object", "a", "form", "base"}, n.Data)
		for _, a := range n.Attr {
			require.NotContains(t, []string{"src", "href", "srcset", "action", "data", "background", "style"}, a.Key)
			require.False(t, strings.HasPrefix(a.Key, "on"), a.Key)
		}
		if n.Type == html.TextNode {
			if n.Parent.Data == "style" {
				require.NotContains(t, n.Data, "url(")
				require.NotContains(t, n.Data, "@import")
			}
			text.WriteString(n.Data)
		}
	}
	require.Contains(t, text.String(), "<script>alert(1)</script>")
	require.Contains(t, text.String(), "Wren Sørvig")
}

// RFC 5322 as net/mail reads it, with both forms of the text (RFC 2046).
func TestMailIsReadByOthers(t *testing.T) {
	m, err := mail.ReadMessage(bytes.NewReader(write(t, export.Mail)))
	require.NoError(t, err)
	date, err := m.Header.Date()
	require.NoError(t, err)
	require.True(t, date.Equal(sample().Started))
	to, err := m.Header.AddressList("To")
	require.NoError(t, err)
	require.Equal(t, []*mail.Address{{Name: "Wren Sørvig", Address: "wren@example.org"}}, to)
	subject, err := new(mime.WordDecoder).DecodeHeader(m.Header.Get("Subject"))
	require.NoError(t, err)
	require.Equal(t, sample().Title(), subject)
	kind, parameters, err := mime.ParseMediaType(m.Header.Get("Content-Type"))
	require.NoError(t, err)
	require.Equal(t, "multipart/alternative", kind)
	parts := multipart.NewReader(m.Body, parameters["boundary"])
	var kinds []string
	for {
		p, err := parts.NextRawPart()
		if err == io.EOF {
			break
		}
		require.NoError(t, err)
		body, err := io.ReadAll(quotedprintable.NewReader(p))
		require.NoError(t, err)
		require.Contains(t, string(body), "é — 🚢")
		kinds = append(kinds, p.Header.Get("Content-Type"))
	}
	require.Len(t, kinds, 2)
	require.Contains(t, kinds[0], "text/plain")
	require.Contains(t, kinds[1], "text/html")
}

// Of corrected words the last stand; what was withdrawn says so and nothing more.
func TestLinesAreAsTheyWereFinallySaid(t *testing.T) {
	by := chat.Operator("idris")
	lines := export.LinesOf([]chat.Event{
		{Number: 1, Kind: chat.Said, By: chat.Visitor("v"), Text: "hello"},
		{Number: 2, Kind: chat.Taken, By: by},
		{Number: 3, Kind: chat.Said, By: by, Text: "Ther is"},
		{Number: 4, Kind: chat.Corrected, By: by, UpTo: 3, Text: "There is"},
		{Number: 5, Kind: chat.Said, By: by, Text: "oops"},
		{Number: 6, Kind: chat.Withdrawn, By: by, UpTo: 5},
		{Number: 7, Kind: chat.Noted, By: by, Text: "secret"},
		{Number: 8, Kind: "inside"},
	}, export.Names{Visitor: "Wren", Operator: func(string) string { return "Idris" }, Department: func(string) string { return "Freight" }}, false)
	var said []string
	for _, l := range lines {
		said = append(said, l.Text)
	}
	require.Equal(t, []string{"hello", "Idris answers.", "There is", "Idris withdrew what stood here."}, said)
}

// What the two did together is told in words, and what was translated stands in both languages,
// as it was corrected.
func TestLinesTellWhatWasShownAndTranslated(t *testing.T) {
	at := time.Date(2026, time.November, 24, 10, 0, 0, 0, time.UTC)
	idris, wren := chat.Operator("idris"), chat.Visitor("wren")
	names := export.Names{Operator: func(string) string { return "Idris Vane" }, Department: func(string) string { return "" }, Visitor: "Wren"}
	german := func(text string) *chat.Detail {
		return &chat.Detail{Translation: &chat.Translation{Language: "de", Text: text}}
	}
	lines := export.LinesOf([]chat.Event{
		{Number: 1, Kind: chat.Said, At: at, By: wren, Text: "Guten Tag"},
		{Number: 2, Kind: chat.TranslationBegan, At: at, By: idris, Detail: &chat.Detail{Translating: &chat.Translating{Theirs: "de", Ours: "en"}}},
		{Number: 3, Kind: chat.Translated, At: at, By: chat.House, UpTo: 1, Detail: &chat.Detail{Translation: &chat.Translation{Language: "en", Text: "Good day"}}},
		{Number: 4, Kind: chat.Said, At: at, By: idris, Text: "Helo", Detail: german("Halo")},
		{Number: 5, Kind: chat.Corrected, At: at, By: idris, UpTo: 4, Text: "Hello", Detail: german("Hallo")},
		{Number: 6, Kind: chat.Said, At: at, By: idris, Text: "Oops", Detail: german("Hoppla")},
		{Number: 7, Kind: chat.Withdrawn, At: at, By: idris, UpTo: 6},
		{Number: 8, Kind: chat.PageOffered, At: at, By: idris, Detail: &chat.Detail{Page: &chat.Page{URL: "https://kelpwick.example/fares", Title: "Fares"}}},
		{Number: 9, Kind: chat.PageMoved, At: at, By: wren, UpTo: 8, Detail: &chat.Detail{How: chat.PageReached}},
		{Number: 10, Kind: chat.AlongAsked, At: at, By: idris},
		{Number: 11, Kind: chat.AlongMoved, At: at, By: wren, UpTo: 10, Detail: &chat.Detail{How: chat.AlongYes}},
	}, names, false)
	var told []string
	for _, l := range lines {
		text := l.Text
		if l.Translation != nil {
			text += " | " + l.Translation.Language + " " + l.Translation.Text
		}
		told = append(told, text)
	}
	require.Equal(t, []string{
		"Guten Tag | en Good day", "Words are translated automatically between de and en from here on.", "Hello | de Hallo", "Idris Vane withdrew what stood here.",
		"Idris Vane offers to show the page “Fares” (https://kelpwick.example/fares).", "Wren is on the page.", "Idris Vane asks to see the visitor's page.", "Wren lets the team see the page.",
	}, told)
}
