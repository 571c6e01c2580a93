package export

import (
	"html/template"
	"io"
	"time"
)

// page is a transcript by itself: nothing in it is fetched from anywhere.
var page = template.Must(template.New("page").Funcs(template.FuncMap{
	"clock": func(at time.Time, zone *time.Location) string { return at.In(zone).Format("15:04") },
	"iso":   func(at time.Time) string { return at.UTC().Format(time.RFC3339) },
}).Parse(`<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>{{.Title}}</title>
<style>
body { max-width: 46rem; margin: 2rem auto; padding: 0 1rem; font: 15px/1.5 system-ui, sans-serif; color: #241b16; background: #fff; }
h1 { font-size: 1.3rem; }
dl { display: grid; grid-template-columns: max-content 1fr; gap: .1rem 1rem; margin: 0 0 1.5rem; }
dt { color: #574a41; }
dd { margin: 0; overflow-wrap: anywhere; }
ol { list-style: none; padding: 0; }
li { display: grid; grid-template-columns: 3.2rem 9rem 1fr; gap: .2rem .8rem; padding: .35rem 0; border-top: 1px solid #e3d8ca; }
time, .happened { color: #574a41; }
.team b { color: #9c3f27; }
.note { background: #f1e9dd; }
.happened span { grid-column: 2 / -1; }
p { margin: 0; white-space: pre-wrap; overflow-wrap: anywhere; }
</style>
</head>
<body>
<h1>{{.Title}}</h1>
<dl>{{range .Facts}}<dt>{{index . 0}}</dt><dd dir="auto">{{index . 1}}</dd>{{end}}</dl>
<ol>
{{$zone := .Zone}}{{range .Lines}}{{if eq .Kind "happened"}}<li class="happened"><time datetime="{{iso .At}}">{{clock .At $zone}}</time><span>{{.Text}}</span></li>
{{else}}<li class="{{.Side}}{{if eq .Kind "note"}} note{{end}}"><time datetime="{{iso .At}}">{{clock .At $zone}}</time><b dir="auto">{{.Name}}{{if eq .Kind "note"}} (note for the team){{end}}</b><p dir="auto">{{if .File}}File: {{.File.Title}}{{if .Text}}
{{end}}{{end}}{{.Text}}{{with .Translation}}<br><i lang="{{.Language}}">({{.Language}}) {{.Text}}</i>{{end}}</p></li>
{{end}}{{end}}</ol>
</body>
</html>
`))

func writeHTML(w io.Writer, t Transcript) error {
	return page.Execute(w, struct {
		Title string
		Facts [][2]string
		Lines []Line
		Zone  *time.Location
	}{t.Title(), t.facts(), t.Lines, t.location()})
}
