package mailing

import (
	"context"
	"embed"
	"fmt"
	"strings"
	"text/template"

	"stoop/internal/mail"
)

//go:embed templates/*.tmpl
var folder embed.FS

// languages are those that mails are written in. Each has a file of templates.
var languages = map[string]*template.Template{"en": parsed("en"), "de": parsed("de")}

func parsed(language string) *template.Template {
	return template.Must(template.ParseFS(folder, "templates/"+language+".tmpl"))
}

// inLanguage returns the templates of a language like de-AT (BCP 47): those of the
// language alone where it has none, of English where that has none either.
func inLanguage(language string) *template.Template {
	base, _, _ := strings.Cut(strings.ToLower(language), "-")
	if t, ok := languages[base]; ok {
		return t
	}
	return languages["en"]
}

// write writes what a template makes of the data.
func write(t *template.Template, name string, data any) (string, error) {
	var b strings.Builder
	if err := t.ExecuteTemplate(&b, name, data); err != nil {
		return "", fmt.Errorf("writing the mail %q: %w", name, err)
	}
	return b.String(), nil
}

// toTeam writes to somebody of the team, by the templates of a name and of its subject; part
// makes the mail's own id, the same for each try.
func (room *Room) toTeam(ctx context.Context, email string, words *template.Template, name string, told any, part string) error {
	subject, err := write(words, name+" subject", told)
	if err != nil {
		return err
	}
	text, err := write(words, name, told)
	if err != nil {
		return err
	}
	return room.Mail.Send(ctx, mail.Message{
		FromName: "Stoop", From: "stoop@" + room.ReplyDomain, To: email, Subject: subject, Text: text,
		ID: part + "@" + room.ReplyDomain,
	})
}
