package export

import (
	"bytes"
	"fmt"
	"io"
	"net/mail"

	"github.com/emersion/go-message"
	gomail "github.com/emersion/go-message/mail"
)

// writeMail writes a transcript as a mail (RFC 5322) with its text and its page as two
// forms of the same.
func writeMail(w io.Writer, t Transcript) error {
	var h gomail.Header
	h.SetDate(t.Started)
	h.SetSubject(t.Title())
	h.SetMessageID(t.ID + ".transcript@stoop.invalid")
	h.SetAddressList("From", []*gomail.Address{{Name: t.Site, Address: "transcript@stoop.invalid"}})
	to := &gomail.Address{Name: t.VisitorName(), Address: "visitor@stoop.invalid"}
	if a, err := mail.ParseAddress(t.Visitor.Email); err == nil {
		to.Address = a.Address
	}
	h.SetAddressList("To", []*gomail.Address{to})
	out, err := gomail.CreateInlineWriter(w, h)
	if err != nil {
		return fmt.Errorf("writing a mail: %w", err)
	}
	for _, part := range []struct {
		contentType string
		write       func(io.Writer, Transcript) error
	}{{"text/plain", writeText}, {"text/html", writeHTML}} {
		var b bytes.Buffer
		if err := part.write(&b, t); err != nil {
			return err
		}
		var head message.Header
		head.SetContentType(part.contentType, map[string]string{"charset": "utf-8"})
		head.Set("Content-Transfer-Encoding", "quoted-printable")
		p, err := out.CreatePart(gomail.InlineHeader{Header: head})
		if err != nil {
			return fmt.Errorf("writing a mail: %w", err)
		}
		if _, err := p.Write(b.Bytes()); err != nil {
			return err
		}
		if err := p.Close(); err != nil {
			return err
		}
	}
	return out.Close()
}
