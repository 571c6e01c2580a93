package mail_test

import (
	"context"
	"log/slog"
	"net"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/internal/mail"
	"stoop/internal/standin/mailbox"
)

func read(t *testing.T, lines ...string) (id, text string) {
	t.Helper()
	m, err := mail.Read(strings.NewReader(strings.Join(lines, "\r\n")))
	require.NoError(t, err)
	return m.ID, m.Text
}

// What a program wrote is not what the visitor said (RFC 3834, section 5).
func TestAutomaticMails(t *testing.T) {
	for header, automatic := range map[string]bool{
		"Auto-Submitted: auto-replied": true, "Auto-Submitted: auto-generated; x=1": true, "Auto-Submitted: no": false, "Precedence: bulk": true,
		"Precedence: first-class": false, `Content-Type: multipart/report; report-type=delivery-status; boundary="b"`: true, "X-Autoreply: yes": true, "Subject: Re": false,
	} {
		m, err := mail.Read(strings.NewReader("From: wren@example.com\r\n" + header + "\r\n\r\nI am away\r\n"))
		if err == nil || !strings.Contains(header, "multipart") {
			require.NoError(t, err, header)
		}
		require.Equal(t, automatic, m.Automatic, header)
	}
}

// Mails as programs send them: several parts, encodings of RFC 2045, character
// sets of old, a quote below.
func TestWhatWasWrittenIsFoundInAMail(t *testing.T) {
	id, text := read(t,
		"From: Wren <wren@example.com>", "To: chat+1@reply.example.com", "Message-ID: <abc@example.com>", "MIME-Version: 1.0",
		`Content-Type: multipart/alternative; boundary="b"`, "",
		"--b", "Content-Type: text/plain; charset=iso-8859-1", "Content-Transfer-Encoding: quoted-printable", "",
		"S=F8ndag, tak. Plads til en bil p=E5 6,8 m?", "", "On Tue, Maren Holt wrote:", "> Which day?", "> =20",
		"--b", "Content-Type: text/html", "", "<p>not this</p>", "--b--", "")
	require.Equal(t, "abc@example.com", id)
	require.Equal(t, "Søndag, tak. Plads til en bil på 6,8 m?", text)

	_, text = read(t, "From: wren@example.com", "Content-Type: text/plain; charset=utf-8", "Content-Transfer-Encoding: base64", "", "SGVqIPCfmqI=", "")
	require.Equal(t, "Hej 🚢", text)

	_, text = read(t, "From: wren@example.com", "", "Just this", "")
	require.Equal(t, "Just this", text, "a mail of the simplest kind")

	lines := []string{"From: Wren Castellane <wren@example.com>", "Subject: =?utf-8?q?Plads_p=C3=A5_d=C3=A6kket?=", `Content-Type: multipart/mixed; boundary="b"`, ""}
	for range 11 {
		lines = append(lines, "--b", "Content-Type: image/png", "Content-Disposition: attachment; filename=a.png", "", "xyz")
	}
	m, err := mail.Read(strings.NewReader(strings.Join(append(lines, "--b", "Content-Type: text/plain", "", "See the picture", "--b--", ""), "\r\n")))
	require.NoError(t, err)
	require.Equal(t, []string{"wren@example.com", "Wren Castellane", "Plads på dækket", "See the picture"}, []string{m.Author, m.AuthorName, m.Subject, m.Text})
	require.Len(t, m.Files, 10)
	require.Equal(t, mail.File{Name: "a.png", Content: []byte("xyz")}, m.Files[9])
	require.Equal(t, []string{"a.png"}, m.LeftOut)
	require.Equal(t, "See the picture\n\n(Came by mail with files that are not kept: "+strings.Repeat("a.png, ", 10)+"a.png)", m.WithoutFiles(), "nothing is dropped without a word")

	_, text = read(t, "From: wren@example.com", "Content-Type: text/html; charset=utf-8", "",
		"<html><head><title>x</title><style>p{}</style></head><body><p>Sunday &amp; twelve</p><div>please</div><script>no()</script><blockquote>Which day?</blockquote></body></html>", "")
	require.Equal(t, "Sunday & twelve\nplease", text, "a mail of HTML alone")
}

func TestQuotesAreLeftOut(t *testing.T) {
	for name, c := range map[string]struct{ in, want string }{
		"nothing quoted":       {"Hello\n\nthere", "Hello\n\nthere"},
		"below":                {"Yes\n\nOn Monday Maren wrote:\n> Which day?", "Yes"},
		"our own marker":       {"Yes\n\n" + mail.Marker + "\nMaren, 3 June:\n> Hello", "Yes"},
		"the marker quoted":    {"Yes\n> " + mail.Marker + "\n> old", "Yes"},
		"a signature":          {"Yes\n-- \nWren Castellane\n+45 1234", "Yes"},
		"answers in between":   {"> Which day?\nSunday\n> How many?\nTwelve", "Sunday\nTwelve"},
		"only a quote":         {"> old words", ""},
		"windows lines":        {"Yes\r\n\r\n> old\r\n", "Yes"},
		"a line that says so":  {"My wife wrote:\nplease hurry", "My wife wrote:\nplease hurry"},
		"greater than in text": {"5 > 3", "5 > 3"},
	} {
		t.Run(name, func(t *testing.T) { require.Equal(t, c.want, mail.WithoutQuotes(c.in)) })
	}
}

func TestWhatIsNoMailIsRefused(t *testing.T) {
	_, err := mail.Read(strings.NewReader("Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Transfer-Encoding: nonsense\r\n\r\nx"))
	require.Error(t, err)
	for _, bad := range []string{"", "mail.example.com", "http://mail.example.com", "smtp://", "smtp://host:port"} {
		_, err := mail.NewSMTP(bad)
		require.Error(t, err, bad)
	}
}

// What is sent arrives whole: names and words in any script, the thread, the
// address for answers.
func TestSendingOverSMTP(t *testing.T) {
	listen := func() net.Listener {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		require.NoError(t, err)
		return l
	}
	smtpOn := listen()
	box := mailbox.Start(smtpOn, listen(), "", slog.New(slog.DiscardHandler))
	sender, err := mail.NewSMTP("smtp://" + smtpOn.Addr().String())
	require.NoError(t, err)
	m := mail.Message{
		FromName: "Søren · Ferries", From: "chat@reply.example.com", To: "wren@example.com", ReplyTo: "chat+1.x@reply.example.com",
		Subject: "Din færge 🚢", Text: "Hej Wren,\n\nplads til 6,8 m.\n", ID: "1.2@reply.example.com", Thread: "1@reply.example.com",
	}
	require.NoError(t, sender.Send(context.Background(), m))
	require.Len(t, box.Mails(), 1)
	got := box.Mails()[0]
	require.Equal(t, m.Subject, got.Subject)
	require.Equal(t, m.ReplyTo, got.ReplyTo)
	require.Equal(t, m.ID, got.MessageID)
	require.Equal(t, strings.TrimSpace(m.Text), strings.TrimSpace(strings.ReplaceAll(got.Text, "\r\n", "\n")))
	require.Contains(t, got.From, "chat@reply.example.com")

	m.To = "not an address"
	require.Error(t, sender.Send(context.Background(), m))
	require.NoError(t, box.Close())
	require.Error(t, sender.Send(context.Background(), m), "a mail server that is gone must not count as sent")
}
