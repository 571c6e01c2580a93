// Package snippet is what goes into the pages of a site: the line itself, and looking
// for it in a page to say what is wrong in plain words.
package snippet

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"golang.org/x/net/html"
)

// Line returns the snippet of a widget, for a Stoop at a base address.
func Line(base, key string) string {
	return fmt.Sprintf(`<script src="%s/stoop.js" data-key="%s" async></script>`, html.EscapeString(base), html.EscapeString(key))
}

// Window returns a link that opens the chat's own page in a window beside the page; where
// scripts are off, in a tab.
func Window(link, title string) string {
	return fmt.Sprintf(`<a href="%s" target="stoop-chat" onclick="open(this.href, this.target, 'popup,width=420,height=680'); return false">%s</a>`, html.EscapeString(link), html.EscapeString(title))
}

// Policy returns what a page's content security policy must allow, one directive each.
func Policy(base string) []string {
	return []string{"script-src " + base, "connect-src " + base, "frame-src " + base}
}

// Code says what was found on a page.
type Code string

// What may be found. The interface puts them into words.
const (
	Right        Code = "right"         // the snippet is there and nothing stands against it
	Missing      Code = "missing"       // no snippet of this Stoop
	Commented    Code = "commented"     // within a comment
	Twice        Code = "twice"         // more than once
	NoKey        Code = "no-key"        // without data-key
	OtherKey     Code = "other-key"     // with the key of another widget, or of none
	OtherServer  Code = "other-server"  // a stoop.js of another address
	Mixed        Code = "mixed"         // a page over TLS that asks for a script without it
	Blocked      Code = "blocked"       // by the page's policy
	OtherSite    Code = "other-site"    // the widget is not one of this site
	Hidden       Code = "hidden"        // the widget does not show on this page
	Off          Code = "off"           // the widget is not published, or switched off
	Inert        Code = "inert"         // within a template, a noscript or a text
	Status       Code = "status"        // the page answers with an error
	NotHTML      Code = "not-html"      // no page at all
	Elsewhere    Code = "elsewhere"     // the address leads to another one
	Unreachable  Code = "unreachable"   // nothing answers
	PrivateWay   Code = "private"       // in a private network
	TooLarge     Code = "too-large"     // larger than is looked at
	WrongAddress Code = "wrong-address" // no address of a page
	Scripted     Code = "scripted"      // a script of the page may bring it
	Certificate  Code = "certificate"   // its TLS certificate is not trusted
)

// Finding is one thing that was found.
type Finding struct {
	Code Code   `json:"code" enum:"right,missing,commented,twice,no-key,other-key,other-server,mixed,blocked,other-site,hidden,off,inert,status,not-html,elsewhere,unreachable,private,too-large,wrong-address,certificate,scripted"`
	What string `json:"what,omitempty" doc:"The key, address or directive that it is about"`
}

// Page is a page that was got.
type Page struct {
	URL         *url.URL
	Status      int
	ContentType string
	Policies    []string // of its headers
	HTML        []byte
}

// Wanted is what should be on it.
type Wanted struct {
	Base  string // of Stoop
	Key   string
	Sites []string // of the widget
	Shows func(page string) bool
	Off   bool
}

// found are the snippets of a page, and what stands around them.
type found struct {
	scripts   []script
	commented bool
	inert     bool
	scripted  bool
	policies  []string // of meta elements
}

type script struct {
	src    *url.URL
	key    string
	hasKey bool
}

// Look returns what is to be said of a page; only Right when all is well.
func Look(page Page, want Wanted) []Finding {
	if page.Status >= 400 {
		return []Finding{{Status, fmt.Sprint(page.Status)}}
	}
	if kind, _, _ := strings.Cut(page.ContentType, ";"); kind != "" && !strings.Contains(kind, "html") {
		return []Finding{{NotHTML, strings.TrimSpace(kind)}}
	}
	on := read(page)
	var list []Finding
	add := func(code Code, what string) { list = append(list, Finding{code, what}) }
	var ours, others []script
	for _, s := range on.scripts {
		if s.src.Scheme+"://"+s.src.Host == want.Base {
			ours = append(ours, s)
		} else {
			others = append(others, s)
		}
	}
	switch {
	case len(ours) > 1:
		add(Twice, "")
	case len(ours) == 0 && len(others) > 0:
		if sameButTLS(others[0].src, want.Base) && page.URL.Scheme == "https" {
			add(Mixed, others[0].src.String())
		} else {
			add(OtherServer, others[0].src.String())
		}
	case len(ours) == 0 && on.commented:
		add(Commented, "")
	case len(ours) == 0 && on.scripted:
		add(Scripted, "")
	case len(ours) == 0 && on.inert:
		add(Inert, "")
	case len(ours) == 0:
		add(Missing, "")
	}
	if len(ours) > 0 {
		s := ours[0]
		switch {
		case !s.hasKey || s.key == "":
			add(NoKey, "")
		case s.key != want.Key:
			add(OtherKey, s.key)
		}
		if s.src.Scheme == "http" && page.URL.Scheme == "https" {
			add(Mixed, s.src.String())
		}
	}
	if lacking := blocked(append(slices.Clone(page.Policies), on.policies...), page.URL, want.Base); len(lacking) > 0 {
		add(Blocked, strings.Join(lacking, "; "))
	}
	if site := page.URL.Scheme + "://" + page.URL.Host; !slices.Contains(want.Sites, site) {
		add(OtherSite, site)
	}
	if want.Off {
		add(Off, "")
	} else if want.Shows != nil && !want.Shows(page.URL.String()) {
		add(Hidden, "")
	}
	if len(list) == 0 {
		add(Right, "")
	}
	return list
}

func sameButTLS(src *url.URL, base string) bool {
	at, err := url.Parse(base)
	return err == nil && at.Scheme == "https" && src.Scheme == "http" && at.Hostname() == src.Hostname()
}

// isOurs reports whether an address is that of a loader.
func isOurs(src string) bool { return strings.Contains(src, "stoop.js") }

// read finds the snippets of a page.
func read(page Page) (on found) {
	z := html.NewTokenizer(strings.NewReader(string(page.HTML)))
	templates, in := 0, ""
	for {
		switch z.Next() {
		case html.ErrorToken:
			return on
		case html.CommentToken:
			on.commented = on.commented || isOurs(z.Token().Data)
		case html.EndTagToken:
			in = ""
			if z.Token().Data == "template" && templates > 0 {
				templates--
			}
		case html.TextToken:
			// The inside of a textarea or a noscript, or a snippet whose signs were escaped.
			if text := z.Token().Data; isOurs(text) {
				on.scripted, on.inert = on.scripted || in == "script", on.inert || in != "script"
			}
		case html.StartTagToken, html.SelfClosingTagToken:
			t := z.Token()
			in = t.Data
			switch t.Data {
			case "template":
				templates++
			case "meta":
				if strings.EqualFold(attribute(t, "http-equiv"), "content-security-policy") {
					on.policies = append(on.policies, attribute(t, "content"))
				}
			case "script":
				if src := attribute(t, "src"); isOurs(src) {
					at, err := page.URL.Parse(src)
					switch {
					case err != nil:
					case templates > 0:
						on.inert = true
					default:
						key, has := lookup(t, "data-key")
						on.scripts = append(on.scripts, script{at, key, has})
					}
				}
			}
		}
	}
}

func attribute(t html.Token, name string) string {
	value, _ := lookup(t, name)
	return value
}

func lookup(t html.Token, name string) (string, bool) {
	for _, a := range t.Attr {
		if a.Key == name {
			return strings.TrimSpace(a.Val), true
		}
	}
	return "", false
}

// blocked returns the directives that a page's policies lack for a Stoop at a base
// address. All policies of a page hold at once (Content Security Policy Level 3, 8.1).
func blocked(policies []string, page *url.URL, base string) []string {
	var lacking []string
	for _, header := range policies {
		for _, policy := range strings.Split(header, ",") {
			directives := parse(policy)
			if len(directives) == 0 {
				continue
			}
			for _, name := range []string{"script-src", "connect-src", "frame-src"} {
				sources, ruled := effective(directives, name)
				if ruled && !allows(sources, page, base) && !slices.Contains(lacking, name+" "+base) {
					lacking = append(lacking, name+" "+base)
				}
			}
		}
	}
	return lacking
}

func parse(policy string) map[string][]string {
	directives := map[string][]string{}
	for _, part := range strings.Split(policy, ";") {
		words := strings.Fields(part)
		if len(words) == 0 {
			continue
		}
		name := strings.ToLower(words[0])
		if _, twice := directives[name]; !twice { // the first counts
			directives[name] = words[1:]
		}
	}
	return directives
}

// effective returns the sources of a directive, or of the one that stands in for it.
func effective(directives map[string][]string, name string) ([]string, bool) {
	chain := map[string][]string{
		"script-src":  {"script-src-elem", "script-src", "default-src"},
		"connect-src": {"connect-src", "default-src"},
		"frame-src":   {"frame-src", "child-src", "default-src"},
	}[name]
	for _, try := range chain {
		if sources, has := directives[try]; has {
			return sources, true
		}
	}
	return nil, false
}

// allows reports whether sources let an address in (Content Security Policy Level 3,
// 6.7.2, as far as hosts go: nonces and hashes are the page's own affair).
func allows(sources []string, page *url.URL, base string) bool {
	at, err := url.Parse(base)
	if err != nil {
		return false
	}
	for _, source := range sources {
		source = strings.ToLower(source)
		switch {
		case source == "*":
			if at.Scheme == "http" || at.Scheme == "https" {
				return true
			}
		case source == "'self'":
			if page.Scheme == at.Scheme && page.Host == at.Host {
				return true
			}
		case source == "'strict-dynamic'":
			return false // hosts count nothing then
		case strings.HasPrefix(source, "'"):
		case strings.HasSuffix(source, ":"):
			if source == at.Scheme+":" || source == "http:" && at.Scheme == "https" {
				return true
			}
		case hostAllows(source, page, at):
			return true
		}
	}
	return false
}

func hostAllows(source string, page, at *url.URL) bool {
	scheme, rest, has := strings.Cut(source, "://")
	if !has {
		scheme, rest = page.Scheme, source
	}
	if scheme != at.Scheme && !(scheme == "http" && at.Scheme == "https") {
		return false
	}
	host, path, _ := strings.Cut(rest, "/")
	name, port, hasPort := strings.Cut(host, ":")
	switch {
	case hasPort && port != "*" && port != portOf(at):
		return false
	case !hasPort && at.Port() != "" && at.Port() != map[string]string{"http": "80", "https": "443"}[at.Scheme]:
		return false
	case path != "" && !strings.HasPrefix("stoop.js", path):
		return false
	}
	if suffix, wild := strings.CutPrefix(name, "*"); wild {
		return strings.HasSuffix(at.Hostname(), suffix) && at.Hostname() != strings.TrimPrefix(suffix, ".")
	}
	return name == at.Hostname()
}

func portOf(at *url.URL) string {
	if at.Port() != "" {
		return at.Port()
	}
	return map[string]string{"http": "80", "https": "443"}[at.Scheme]
}
