// Package answer says how sure one can be that a passage of an article answers a
// question, by which of its words stand where. It knows no language: words come as
// their stems, and how rare they are is told.
package answer

import (
	"cmp"
	"math"
	"slices"
)

// Word is a word of a question that means something.
type Word struct {
	In int // in how many passages it stands
}

// Candidate is a passage in which some words of a question stand.
type Candidate struct {
	InHead []bool // by word: in the article's title or the heading above the passage
	InText []bool // by word: in the passage
	// Alike is how much the title or the heading looks like the question, from 0 to 1:
	// PostgreSQL's word_similarity.
	Alike  float64
	Length int // of the passage, in words
}

// Ranked is a candidate with how much speaks for it.
type Ranked struct {
	Index      int     // among the candidates
	Score      float64 // for putting candidates in order
	Confidence float64 // from 0 to 1, that it answers the question
	Features   Features
}

// Answered is the answer to a question.
type Answered struct {
	OK         bool // false: none is sure enough
	Text       string
	ArticleID  string
	Title      string
	Confidence float64 // from 0 to 1
}

// Threshold is the confidence above which a helper answers. It was chosen on every
// second one of the questions that ship with the demo, such that nine of ten answers
// are right; `make bench`, part helper, measures it on the others.
const Threshold = 0.65

// weight is how much a word tells: the rarer, the more. It is the inverse document
// frequency of K. Spärck Jones (1972) as Robertson and Walker smooth it, from memory:
// ln(1 + (N − n + ½) / (n + ½)), with N passages of which n have the word.
func weight(w Word, passages int) float64 {
	n := float64(w.In)
	return math.Log(1 + (float64(passages)-n+0.5)/(n+0.5))
}

// Features are what confidence is made of, each from 0 to 1.
type Features struct {
	Covered float64 // share of the words' weight that stands in head or text
	Head    float64 // share that stands in the head
	Alike   float64
	Lead    float64 // by how much the best of another article falls behind, as a share
	One     float64 // 1, if a single word of the question means something
}

// Rank puts candidates in order, the best first. passages is how many there are; same
// reports whether two candidates are of one article.
func Rank(question []Word, candidates []Candidate, passages int, same func(i, j int) bool) []Ranked {
	weights, all := make([]float64, len(question)), 0.0
	for i, w := range question {
		weights[i] = weight(w, passages)
		all += weights[i]
	}
	ranked := make([]Ranked, len(candidates))
	for i, c := range candidates {
		ranked[i] = Ranked{Index: i, Score: score(c, weights, all)}
	}
	slices.SortStableFunc(ranked, func(a, b Ranked) int { return cmp.Compare(b.Score, a.Score) })
	for n, r := range ranked {
		c := candidates[r.Index]
		f := Features{Covered: share(weights, all, func(k int) bool { return c.InHead[k] || c.InText[k] }), Head: share(weights, all, func(k int) bool { return c.InHead[k] }), Alike: c.Alike, Lead: 1}
		if len(question) == 1 {
			f.One = 1
		}
		other := slices.IndexFunc(ranked, func(o Ranked) bool { return !same(o.Index, r.Index) })
		if other >= 0 && r.Score > 0 {
			f.Lead = math.Max(0, 1-ranked[other].Score/r.Score)
		}
		ranked[n].Features, ranked[n].Confidence = f, f.confidence()
	}
	return ranked
}

// score is what puts candidates in order: the share of the question's weight that stands
// in a passage, more of it where it stands in the head as well.
func score(c Candidate, weights []float64, all float64) float64 {
	sum := 0.0
	for k, w := range weights {
		switch {
		case c.InHead[k] && c.InText[k]:
			sum += 1.6 * w
		case c.InHead[k]:
			sum += 1.1 * w
		case c.InText[k]:
			sum += w
		}
	}
	if all > 0 {
		sum /= all
	}
	// A long passage has more words by chance.
	return (sum + 0.5*c.Alike) * (1 - 0.08*math.Min(1, float64(c.Length)/120))
}

// share returns the share of the weights of the words for which something holds.
func share(weights []float64, all float64, holds func(k int) bool) float64 {
	sum := 0.0
	for k, w := range weights {
		if holds(k) {
			sum += w
		}
	}
	if all == 0 {
		return 0
	}
	return sum / all
}

// confidence is a logistic regression, fitted on every second one of the questions that
// ship with the demo: whether the best passage is of the article that answers them.
func (f Features) confidence() float64 {
	z := coefficients[0]
	for i, x := range f.List() {
		z += coefficients[i+1] * x
	}
	return 1 / (1 + math.Exp(-z))
}

// List returns the features as numbers, for fitting.
func (f Features) List() []float64 { return []float64{f.Covered, f.Head, f.Alike, f.Lead, f.One} }

var coefficients = [6]float64{-4.24, 6.17, 4.7, 0.58, 1.24, -3.08}
