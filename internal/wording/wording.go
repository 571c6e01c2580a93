// Package wording holds what Stoop writes by itself outside its pages, in mails and push
// messages: templates, a file for each language.
package wording

import (
	"embed"
	"fmt"
	"strings"
	"text/template"
	"time"
)

//go:embed templates/*.tmpl
var folder embed.FS

// languages are those that are written in. Each has a file of templates.
var languages = map[string]*template.Template{"en": parsed("en"), "de": parsed("de")}

func parsed(language string) *template.Template {
	return template.Must(template.ParseFS(folder, "templates/"+language+".tmpl"))
}

// In returns the templates of a language like de-AT (BCP 47): those of the language alone
// where it has none, of English where that has none either.
func In(language string) *template.Template {
	base, _, _ := strings.Cut(strings.ToLower(language), "-")
	if t, ok := languages[base]; ok {
		return t
	}
	return languages["en"]
}

// Write writes what a template makes of the data.
func Write(t *template.Template, name string, data any) (string, error) {
	var b strings.Builder
	if err := t.ExecuteTemplate(&b, name, data); err != nil {
		return "", fmt.Errorf("writing %q: %w", name, err)
	}
	return b.String(), nil
}

// Clock writes how long something took, in minutes and seconds.
func Clock(d time.Duration) string {
	d = d.Round(time.Second)
	return fmt.Sprintf("%d:%02d", int(d.Minutes()), int(d.Seconds())%60)
}
