package visit

import (
	"net/url"
	"slices"
	"strings"
)

// CleanURL returns the address of a page as it may be kept: http or https only,
// without a fragment unless the site finds its pages by it (#/path), and of the
// query nothing but the parameters that are allowed. What is no address of a page
// gives nothing.
func CleanURL(page string, allowed []string) string {
	u, err := url.Parse(strings.TrimSpace(page))
	if err != nil || (u.Scheme != "http" && u.Scheme != "https") || u.Host == "" {
		return ""
	}
	u.User = nil
	kept := url.Values{}
	for name, values := range u.Query() {
		if slices.ContainsFunc(allowed, func(a string) bool { return strings.EqualFold(a, name) }) {
			kept[name] = values
		}
	}
	u.RawQuery = kept.Encode()
	if !strings.HasPrefix(u.Fragment, "/") && !strings.HasPrefix(u.Fragment, "!/") {
		u.Fragment, u.RawFragment = "", ""
	}
	return u.String()
}

// Matches reports whether the address of a page matches a pattern, in which * is
// any run of characters. A pattern without a scheme is one of paths, with the query
// if it has a ?: /book* matches /book and /book/pay. Letters' case counts nothing.
func Matches(pattern, page string) bool {
	pattern = strings.ToLower(strings.TrimSpace(pattern))
	if pattern == "" {
		return false
	}
	text := strings.ToLower(page)
	if !strings.Contains(pattern, "://") {
		u, err := url.Parse(text)
		if err != nil {
			return false
		}
		text = u.EscapedPath()
		if text == "" {
			text = "/"
		}
		if strings.Contains(pattern, "?") && u.RawQuery != "" {
			text += "?" + u.RawQuery
		}
		if strings.Contains(pattern, "#") && u.Fragment != "" {
			text += "#" + u.EscapedFragment()
		}
	}
	return glob(pattern, text)
}

// MatchesAny reports whether an address matches one of some patterns.
func MatchesAny(patterns []string, page string) bool {
	return slices.ContainsFunc(patterns, func(p string) bool { return Matches(p, page) })
}

// Covers reports whether a pattern matches every page that another one matches, on some
// sites. What it cannot tell for sure it denies.
func Covers(pattern, other string, sites []string) bool {
	pattern, other = strings.ToLower(strings.TrimSpace(pattern)), strings.ToLower(strings.TrimSpace(other))
	// A star of the other stands for anything: only a star can match it.
	const anything = "\x00"
	if pattern == "" {
		return false
	}
	if strings.HasPrefix(other, "*") {
		other = "/" + other // a path begins with a slash
	}
	text := strings.ReplaceAll(other, "*", anything)
	if !strings.Contains(pattern, "://") {
		_, path, full := strings.Cut(text, "://")
		if full {
			_, path, _ = strings.Cut(path, "/")
			text = "/" + path
		}
		return glob(pattern, text)
	}
	if strings.Contains(other, "://") {
		return glob(pattern, text)
	}
	return len(sites) > 0 && !slices.ContainsFunc(sites, func(site string) bool { return !glob(pattern, strings.ToLower(site)+text) })
}

// glob matches in time linear in the text for each star, whatever the pattern.
func glob(pattern, text string) bool {
	parts := strings.Split(pattern, "*")
	if len(parts) == 1 {
		return pattern == text
	}
	first, last := parts[0], parts[len(parts)-1]
	if !strings.HasPrefix(text, first) {
		return false
	}
	text = text[len(first):]
	for _, part := range parts[1 : len(parts)-1] {
		at := strings.Index(text, part)
		if at < 0 {
			return false
		}
		text = text[at+len(part):]
	}
	return strings.HasSuffix(text, last)
}
