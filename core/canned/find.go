package canned

import (
	"cmp"
	"container/heap"
	"iter"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"stoop/core/tongue"
)

// Library is a set of responses, ready to be searched at every key press. It is
// never changed and safe for concurrent use.
type Library struct {
	responses []Response
	places    map[string]int    // by id
	bases     map[string]string // of the languages' tags
	names     []string          // normalised shortcuts
	ranks     []int             // places in the order of shortcuts
	shortcuts []entry
	openings  []entry
	// All words of shortcuts, folders and texts, each once and each with a line
	// end behind it, so that one pass finds all that hold some letters.
	words  string
	starts []int     // of each word in words
	in     [][]int32 // the responses in which each word stands, ascending
}

type entry struct {
	key string
	at  int
}

// openingLength is how much of a response counts as its opening, in bytes.
const openingLength = 160

// New returns a library of responses.
func New(responses []Response) *Library {
	l := &Library{responses: responses, places: map[string]int{}, names: make([]string, len(responses)), ranks: make([]int, len(responses)), bases: map[string]string{}}
	var words strings.Builder
	known := map[string]int{}
	for i, r := range responses {
		l.places[r.ID] = i
		if _, known := l.bases[r.Language]; !known {
			l.bases[r.Language] = tongue.Base(r.Language)
		}
		l.names[i] = normal(r.Shortcut)
		for word := range strings.FieldsSeq(normal(r.Shortcut + " " + r.Folder + " " + r.Text)) {
			n, is := known[word]
			if !is {
				n = len(l.starts)
				known[word] = n
				l.starts, l.in = append(l.starts, words.Len()), append(l.in, nil)
				words.WriteString(word + "\n")
			}
			if in := l.in[n]; len(in) == 0 || in[len(in)-1] != int32(i) {
				l.in[n] = append(in, int32(i))
			}
		}
		l.shortcuts = append(l.shortcuts, entry{normal(r.Shortcut), i})
		opening := normal(r.Text)
		for len(opening) > openingLength {
			_, size := utf8.DecodeLastRuneInString(opening)
			opening = opening[:len(opening)-size]
		}
		l.openings = append(l.openings, entry{opening, i})
	}
	l.words = words.String()
	for _, list := range [][]entry{l.shortcuts, l.openings} {
		slices.SortFunc(list, func(a, b entry) int { return cmp.Or(strings.Compare(a.key, b.key), a.at-b.at) })
	}
	for rank, e := range l.shortcuts {
		l.ranks[e.at] = rank
	}
	return l
}

// Reader is who looks for a response, and for which chat.
type Reader struct {
	Operator    string
	Departments []string           // of the operator
	Department  string             // of the chat
	Language    string             // of the chat's visitor
	Uses        map[string]float64 // how often the operator used each response, by id

	base string // of Language, worked out once for a search
}

// Hit is a response that was found.
type Hit struct {
	Response
	Match string // the end of the typed text that it would replace
}

// The fits, best first.
const (
	wholeShortcut = iota
	beginOfShortcut
	openingOfAll
	openingOfSentence
	inFolderOrText
)

// The shortest that calls a suggestion, in code points: two letters of a
// shortcut, three of an opening. After a semicolon one is enough.
const (
	shortestShortcut = 2
	shortestOpening  = 3
)

// Suggest returns the responses that fit what is being typed, best first, at
// most limit: those whose shortcut begins with the last word, and those that
// begin like the text or its last sentence. How well one fits counts first, then
// the reader's own use, then whose it is and its language.
func (l *Library) Suggest(typed string, r Reader, limit int) []Hit {
	best := l.chooser(r, limit)
	word := typed[lastStart(typed, unicode.IsSpace):]
	called := strings.HasPrefix(word, ";")
	if key := normal(strings.TrimPrefix(word, ";")); utf8.RuneCountInString(key) >= shortestShortcut || called && key != "" {
		for _, e := range beginning(l.shortcuts, key) {
			fit := beginOfShortcut
			if e.key == key {
				fit = wholeShortcut
			}
			best.consider(e.at, fit, word)
		}
	}
	whole := strings.TrimLeftFunc(typed, unicode.IsSpace)
	sentence := strings.TrimLeftFunc(typed[lastStart(typed, endsSentence):], unicode.IsSpace)
	for fit, begin := range [...]string{openingOfAll: whole, openingOfSentence: sentence} {
		if fit == openingOfSentence && sentence == whole {
			break // one sentence so far: each would fit twice
		}
		if key := normalOpen(begin); utf8.RuneCountInString(key) >= shortestOpening {
			for _, e := range beginning(l.openings, key) {
				best.consider(e.at, fit, begin)
			}
		}
	}
	return best.hits()
}

// beginning returns the entries of a sorted list whose keys begin with a key.
func beginning(list []entry, key string) []entry {
	from, _ := slices.BinarySearchFunc(list, key, func(e entry, k string) int { return strings.Compare(e.key, k) })
	list = list[from:]
	to, _ := slices.BinarySearchFunc(list, key, func(e entry, k string) int {
		if strings.HasPrefix(e.key, k) {
			return -1
		}
		return 1
	})
	return list[:to]
}

// Find returns the responses in which all words stand, also as parts of longer
// words, best first; without words, all that the reader may use.
func (l *Library) Find(words string, r Reader, limit int) []Hit {
	terms := strings.Fields(normal(words))
	best := l.chooser(r, limit)
	for i, held := range l.holding(terms) {
		if held != len(terms) {
			continue
		}
		fit := inFolderOrText
		if len(terms) == 1 && strings.HasPrefix(l.names[i], terms[0]) {
			fit = beginOfShortcut
			if l.names[i] == terms[0] {
				fit = wholeShortcut
			}
		}
		best.consider(i, fit, "")
	}
	return best.hits()
}

// holding counts for each response how many of the terms it holds, up to the
// first that it does not hold.
func (l *Library) holding(terms []string) []int {
	held := make([]int, len(l.responses))
	for n, term := range terms {
		for word := range l.wordsWith(term) {
			for _, at := range l.in[word] {
				if held[at] == n {
					held[at] = n + 1
				}
			}
		}
	}
	return held
}

// wordsWith goes through the words that hold some letters.
func (l *Library) wordsWith(letters string) iter.Seq[int] {
	return func(yield func(int) bool) {
		for from := 0; ; {
			found := strings.Index(l.words[from:], letters)
			if found < 0 {
				return
			}
			word, begins := slices.BinarySearch(l.starts, from+found)
			if !begins {
				word--
			}
			if !yield(word) || word+1 == len(l.starts) {
				return
			}
			from = l.starts[word+1]
		}
	}
}

func (l *Library) visible(x *Response, r *Reader) bool {
	switch x.Scope {
	case Own:
		return x.Owner == r.Operator
	case Department:
		return x.Owner == r.Department || slices.Contains(r.Departments, x.Owner)
	}
	return true
}

// chooser keeps the best of many candidates, in a heap whose top is the worst
// of them: most candidates cost one comparison.
type chooser struct {
	library *Library
	reader  Reader
	limit   int
	uses    []float64 // by response
	kept    []candidate
	places  []int32 // in kept by response, from 1, for those that fit twice
}

type candidate struct {
	response  int
	fit, near int
	uses      float64
	rank      int
	match     string
}

func (l *Library) chooser(r Reader, limit int) *chooser {
	r.base = tongue.Base(r.Language)
	c := &chooser{library: l, reader: r, limit: max(0, limit), uses: make([]float64, len(l.responses)), places: make([]int32, len(l.responses))}
	for id, n := range r.Uses {
		if at, known := l.places[id]; known {
			c.uses[at] = n
		}
	}
	return c
}

func (c candidate) compare(o candidate) int {
	return cmp.Or(cmp.Compare(c.fit, o.fit), cmp.Compare(o.uses, c.uses), cmp.Compare(c.near, o.near), cmp.Compare(c.rank, o.rank))
}

// consider takes a response into account that fits in some way.
func (c *chooser) consider(response, fit int, match string) {
	full := len(c.kept) == c.limit
	if full && (c.limit == 0 || fit > c.kept[0].fit) {
		return
	}
	x := &c.library.responses[response]
	if !c.library.visible(x, &c.reader) {
		return
	}
	one := candidate{response: response, fit: fit, uses: c.uses[response], near: c.library.nearness(&c.reader, x), rank: c.library.ranks[response], match: match}
	if place := int(c.places[response]) - 1; place >= 0 {
		if one.compare(c.kept[place]) < 0 {
			c.kept[place] = one
			heap.Fix(c, place)
		}
		return
	}
	if full {
		if one.compare(c.kept[0]) >= 0 {
			return
		}
		heap.Pop(c)
	}
	heap.Push(c, one)
}

// Len, Less, Swap, Push and Pop make a chooser a heap.
func (c *chooser) Len() int           { return len(c.kept) }
func (c *chooser) Less(i, j int) bool { return c.kept[i].compare(c.kept[j]) > 0 }
func (c *chooser) Swap(i, j int) {
	c.kept[i], c.kept[j] = c.kept[j], c.kept[i]
	c.places[c.kept[i].response], c.places[c.kept[j].response] = int32(i+1), int32(j+1)
}
func (c *chooser) Push(x any) {
	one := x.(candidate)
	c.kept = append(c.kept, one)
	c.places[one.response] = int32(len(c.kept))
}
func (c *chooser) Pop() any {
	one := c.kept[len(c.kept)-1]
	c.kept = c.kept[:len(c.kept)-1]
	c.places[one.response] = 0
	return one
}

func (c *chooser) hits() []Hit {
	slices.SortFunc(c.kept, candidate.compare)
	hits := make([]Hit, len(c.kept))
	for i, one := range c.kept {
		hits[i] = Hit{Response: c.library.responses[one.response], Match: one.match}
	}
	return hits
}

// nearness orders responses that fit and are used alike: the reader's own, those
// of the chat's department, of another department, common; in the visitor's
// language before those in another one.
func (l *Library) nearness(r *Reader, x *Response) int {
	near := 3
	switch {
	case x.Scope == Own:
		near = 0
	case x.Scope == Department && x.Owner == r.Department:
		near = 1
	case x.Scope == Department:
		near = 2
	}
	if x.Language != "" && r.Language != "" && x.Language != r.Language && l.bases[x.Language] != r.base {
		near += 10
	}
	return near
}

// lastStart returns where what follows the last such character begins.
func lastStart(s string, is func(rune) bool) int {
	at := strings.LastIndexFunc(s, is)
	if at < 0 {
		return 0
	}
	_, size := utf8.DecodeRuneInString(s[at:])
	return at + size
}

func endsSentence(r rune) bool { return r == '.' || r == '!' || r == '?' || r == '\n' }

// normal makes texts comparable: lower case, single spaces.
func normal(s string) string { return strings.Join(strings.Fields(strings.ToLower(s)), " ") }

// normalOpen is normal, but a space at the end stays: a word was finished.
func normalOpen(s string) string {
	key := normal(s)
	if last, _ := utf8.DecodeLastRuneInString(s); key != "" && unicode.IsSpace(last) {
		key += " "
	}
	return key
}
