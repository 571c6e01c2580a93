// Package weights weighs what browsers must download, against the limits that
// the product promises.
package weights

import (
	"bytes"
	"compress/gzip"
	"fmt"
	"io/fs"
	"path"
	"regexp"

	"stoop/web"
)

// Weight of one part of the interface, in bytes after gzip; fonts as they are,
// since they are compressed already.
type Weight struct {
	Part  string
	Bytes int
	Limit int
}

// kB is 1,000 bytes.
const kB = 1000

// Of returns the weights of the loader, the panel and the console's first
// screen, read from the built files.
func Of() ([]Weight, error) {
	loader, err := compressed("loader/stoop.js")
	if err != nil {
		return nil, err
	}
	more, err := compressed("loader/stoop-more.js")
	if err != nil {
		return nil, err
	}
	panel, err := page("panel")
	if err != nil {
		return nil, err
	}
	whole, err := all("panel")
	if err != nil {
		return nil, err
	}
	read, err := patterns()
	if err != nil {
		return nil, err
	}
	console, err := page("console")
	if err != nil {
		return nil, err
	}
	started, err := starts("console")
	if err != nil {
		return nil, err
	}
	console += started
	fonts, err := fonts("console/assets", "atkinson-hyperlegible-next-latin-wght-normal", "fraunces")
	return []Weight{
		{"loader", loader, 3500},
		{"what the loader brings in when it is wanted", more, 5 * kB},
		{"panel, before a chat", panel, 25 * kB},
		{"panel, all of it", whole, 68 * kB},
		{"panel, where a form has patterns", read, 50 * kB},
		{"console, first screen with fonts", console + fonts, 280 * kB},
	}, err
}

var linked = regexp.MustCompile(`(?:src|href)="/([^"]+\.(?:js|css))"`)

// page weighs an HTML file with all scripts and styles that it names.
func page(folder string) (int, error) {
	file := folder + "/index.html"
	html, err := fs.ReadFile(web.Dist(), file)
	if err != nil {
		return 0, fmt.Errorf("the interface is not built, run make build: %w", err)
	}
	sum, err := compressed(file)
	if err != nil {
		return 0, err
	}
	texts, err := words(folder)
	sum += texts
	for _, match := range linked.FindAllSubmatch(html, -1) {
		bytes, fileErr := compressed(path.Join(folder, string(match[1])))
		if fileErr != nil {
			return 0, fileErr
		}
		sum += bytes
	}
	return sum, err
}

// catalogue matches the texts of a part in one language.
var catalogue = regexp.MustCompile(`/words-(\w+)-(en|de|da|fr|es|en-XA|ar-XB)-[^/]+\.js$`)

// words weighs the texts of a part in the language that needs most: a browser
// loads those of one.
func words(folder string) (int, error) {
	most := 0
	err := fs.WalkDir(web.Dist(), folder, func(file string, entry fs.DirEntry, err error) error {
		match := catalogue.FindStringSubmatch(file)
		if err != nil || match == nil || match[1] != folder || len(match[2]) > len("en") { // made-up languages are for tests
			return err
		}
		bytes, err := compressed(file)
		most = max(most, bytes)
		return err
	})
	if most == 0 && err == nil {
		err = fmt.Errorf("the texts of %s are missing from the built interface", folder)
	}
	return most, err
}

// all weighs every script and style of a part, whenever it comes.
func all(folder string) (int, error) {
	sum := 0
	err := fs.WalkDir(web.Dist(), folder, func(file string, entry fs.DirEntry, err error) error {
		if err != nil || entry.IsDir() || catalogue.MatchString(file) || seldom.MatchString(file) {
			return err
		}
		bytes, err := compressed(file)
		sum += bytes
		return err
	})
	if err != nil {
		return 0, err
	}
	words, err := words(folder)
	return sum + words, err
}

// seldom matches what few visitors or none load: what reads patterns, where a form has
// some, and the preview of the editor.
var seldom = regexp.MustCompile(`/(patterns|preview|store|look)-[^/]+$`)

// patterns weighs what reads the patterns of a form.
func patterns() (int, error) {
	files, err := fs.Glob(web.Dist(), "panel/panel-assets/patterns-*.js")
	if err != nil || len(files) != 1 {
		return 0, fmt.Errorf("what reads patterns is missing from the built interface: %v, %w", files, err)
	}
	return compressed(files[0])
}

// named finds what a script loads by itself.
var named = regexp.MustCompile(`"(assets/[^"]+\.(?:js|css))"`)

// starts weighs what the first script of a page loads before anything is shown.
func starts(folder string) (int, error) {
	html, err := fs.ReadFile(web.Dist(), folder+"/index.html")
	if err != nil {
		return 0, fmt.Errorf("the interface is not built, run make build: %w", err)
	}
	entry := linked.FindSubmatch(html)
	if entry == nil {
		return 0, fmt.Errorf("the page of %s names no script", folder)
	}
	script, err := fs.ReadFile(web.Dist(), path.Join(folder, string(entry[1])))
	if err != nil {
		return 0, err
	}
	sum, files := 0, named.FindAllSubmatch(script, -1)
	if len(files) == 0 {
		return 0, fmt.Errorf("the first script of %s loads nothing: weigh it otherwise", folder)
	}
	weighed := map[string]bool{}
	for _, match := range files {
		if weighed[string(match[1])] || catalogue.Match(append([]byte("/"), match[1]...)) {
			continue // it is loaded once; of the texts, one is weighed with the page
		}
		weighed[string(match[1])] = true
		bytes, err := compressed(path.Join(folder, string(match[1])))
		if err != nil {
			return 0, err
		}
		sum += bytes
	}
	return sum, nil
}

func compressed(file string) (int, error) {
	content, err := fs.ReadFile(web.Dist(), file)
	if err != nil {
		return 0, fmt.Errorf("the interface is not built, run make build: %w", err)
	}
	var out bytes.Buffer
	z, err := gzip.NewWriterLevel(&out, gzip.DefaultCompression)
	if err != nil {
		return 0, err
	}
	if _, err := z.Write(content); err != nil {
		return 0, err
	}
	if err := z.Close(); err != nil {
		return 0, err
	}
	return out.Len(), nil
}

func fonts(folder string, names ...string) (int, error) {
	sum := 0
	for _, name := range names {
		found, err := fs.Glob(web.Dist(), folder+"/"+name+"*.woff2")
		if err != nil || len(found) != 1 {
			return 0, fmt.Errorf("the font %s is missing from the built interface", name)
		}
		info, err := fs.Stat(web.Dist(), found[0])
		if err != nil {
			return 0, err
		}
		sum += int(info.Size())
	}
	return sum, nil
}
