package visit

import (
	"net/url"
	"slices"
	"strings"

	"golang.org/x/net/publicsuffix"
)

// Kind says by what way somebody came to the site.
type Kind string

// The ways. They are the groups of common use in web analytics: a campaign's own
// word (utm_medium) counts before what the referrer looks like.
const (
	Direct   Kind = "direct" // typed, a bookmark, or nobody said
	Search   Kind = "search"
	Social   Kind = "social"
	Email    Kind = "email"
	Campaign Kind = "campaign" // paid for, or named by a link that is neither of the above
	Referral Kind = "referral" // a link on another site
)

// Kinds are all of them, in the order in which they are shown.
var Kinds = []Kind{Direct, Search, Social, Email, Campaign, Referral}

// Source is from where somebody came.
type Source struct {
	Kind     Kind   `json:"kind"`
	Name     string `json:"name,omitempty"` // utm_source, or the host of the referrer
	Campaign string `json:"campaign,omitempty"`
	Medium   string `json:"medium,omitempty"` // utm_medium as it was given
	Term     string `json:"term,omitempty"`
	Content  string `json:"content,omitempty"`
}

// longest bounds each part of a source, in bytes.
const longest = 100

// SourceOf returns from where a page was reached, by its own address with the UTM
// parameters in it, and by the referrer. Pages of the site's own hosts are no
// source: whoever comes from there was there already.
//
// The five parameters are those of Google's "Campaign URL Builder": utm_source,
// utm_medium, utm_campaign, utm_term, utm_content.
func SourceOf(page, referrer string, own ...string) Source {
	query := url.Values{}
	if u, err := url.Parse(page); err == nil {
		query = u.Query()
		own = append(slices.Clone(own), u.Hostname())
	}
	from, host := "", ""
	if r, err := url.Parse(referrer); err == nil && (r.Scheme == "http" || r.Scheme == "https" || r.Scheme == "android-app") {
		host = bare(r.Hostname())
		from = host
	}
	if slices.ContainsFunc(own, func(o string) bool { return bare(o) == host }) {
		from, host = "", ""
	}
	given := func(name string) string { return short(strings.TrimSpace(query.Get(name))) }
	s := Source{Name: given("utm_source"), Medium: given("utm_medium"), Campaign: given("utm_campaign"), Term: given("utm_term"), Content: given("utm_content")}
	if s != (Source{}) {
		s.Kind = kindOfMedium(strings.ToLower(s.Medium), strings.ToLower(s.Name))
		if s.Name == "" {
			s.Name = short(from)
		}
		return s
	}
	if from == "" {
		return Source{Kind: Direct}
	}
	return Source{Kind: kindOfHost(host), Name: short(from)}
}

// kindOfMedium puts a campaign's link into a group by its medium, or else by its
// source, as the default channel groups of web analytics do.
func kindOfMedium(medium, source string) Kind {
	flat := strings.NewReplacer("-", "", "_", "", " ", "").Replace(medium)
	switch flat {
	case "email", "mail", "newsletter":
		return Email
	case "social", "socialnetwork", "socialmedia", "sm":
		return Social
	case "organic":
		return Search
	case "referral", "link":
		return Referral
	case "", "(none)", "none":
		switch {
		case source == "email" || source == "newsletter":
			return Email
		case isSocial(source):
			return Social
		}
	}
	return Campaign
}

// kindOfHost tells what kind of site a link came from.
func kindOfHost(host string) Kind {
	switch {
	case isMail(host):
		return Email
	case isSearch(host):
		return Search
	case isSocial(host):
		return Social
	}
	return Referral
}

// The names by which search engines, social networks and mail are known in the
// hosts of referrers: common practice, after the lists that web analytics use.
var (
	searchNames = []string{"google", "bing", "duckduckgo", "yahoo", "ecosia", "qwant", "startpage", "yandex", "baidu", "naver", "seznam", "brave", "kagi", "mojeek", "sogou"}
	socialHosts = []string{"facebook.com", "instagram.com", "linkedin.com", "lnkd.in", "twitter.com", "t.co", "x.com", "reddit.com", "pinterest.com", "tiktok.com", "youtube.com", "threads.net", "bsky.app", "mastodon.social", "tumblr.com", "vk.com", "whatsapp.com", "t.me"}
	mailHosts   = []string{"mail.google.com", "mail.yahoo.com", "outlook.live.com", "outlook.office.com", "outlook.office365.com", "mail.proton.me"}
)

func isMail(host string) bool { return slices.Contains(mailHosts, host) }

// isSearch recognises an engine by the name that it has registered, in whatever
// country: google.co.uk, search.brave.com. What else its company does (maps., docs.)
// is no search.
func isSearch(host string) bool {
	domain, err := publicsuffix.EffectiveTLDPlusOne(host)
	if err != nil {
		return false
	}
	name, _, _ := strings.Cut(domain, ".")
	before := strings.TrimSuffix(strings.TrimSuffix(host, domain), ".")
	return slices.Contains(searchNames, name) && (before == "" || before == "m" || len(before) == 2 || strings.Contains(before, "search"))
}

func isSocial(host string) bool {
	return slices.ContainsFunc(socialHosts, func(s string) bool {
		name, _, _ := strings.Cut(s, ".")
		return host == s || strings.HasSuffix(host, "."+s) || len(name) > 2 && host == name
	})
}

// bare returns a host without what says nothing.
func bare(host string) string { return strings.TrimPrefix(strings.ToLower(host), "www.") }

// short cuts a text at a whole character.
func short(text string) string {
	if len(text) <= longest {
		return text
	}
	return strings.ToValidUTF8(text[:longest], "")
}
