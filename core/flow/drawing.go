package flow

import (
	"slices"
)

// Sizes of a drawing, in the pixels of an interface at its usual size.
const (
	BoxWidth  = 160
	BoxHeight = 46
	gapAcross = 20
	gapDown   = 42
	margin    = 20
	lane      = 10 // between lines that lead back beside each other
)

// Drawing is a flow as it is seen: its steps as boxes in rows from above, and the ways
// between them as lines.
type Drawing struct {
	Width  int         `json:"width"`
	Height int         `json:"height"`
	Boxes  []DrawnStep `json:"boxes"`
	Lines  []DrawnWay  `json:"lines"`
}

// DrawnStep is a step in a drawing.
type DrawnStep struct {
	Step string `json:"step"`
	X    int    `json:"x"`
	Y    int    `json:"y"`
	Lost bool   `json:"lost" doc:"Nothing leads to it"`
}

// DrawnWay is a way from one step to another: corners from its beginning to its end.
type DrawnWay struct {
	From    string   `json:"from"`
	To      string   `json:"to"`
	Label   string   `json:"label" doc:"Which way it is; otherwise for the one that is taken when nothing else is"`
	Back    bool     `json:"back" doc:"It leads back to a step above"`
	Corners []Corner `json:"corners"`
}

// Corner is a corner of a line.
type Corner struct {
	X int `json:"x"`
	Y int `json:"y"`
}

// Draw lays a flow out in rows, as Sugiyama's method does: a step stands below those
// that lead to it, unless they lead back; within a row, steps stand near those that lead
// to them, in as many passes as change something. Steps to which nothing leads stand
// in a row of their own at the foot.
//
// K. Sugiyama, S. Tagawa, M. Toda: Methods for Visual Understanding of Hierarchical
// System Structures, IEEE Transactions on Systems, Man, and Cybernetics 11 (1981),
// from memory: layers by longest paths, order by barycentres.
func (f Flow) Draw() Drawing {
	p := newPlan(f)
	p.rank()
	p.order()
	return p.drawing()
}

// plan is a drawing in the making. Steps go by their place in the flow.
type plan struct {
	flow  Flow
	ways  [][]way // by step; only those that lead to a step
	to    [][]int // the steps to which they lead
	back  map[[2]int]bool
	ranks []int // -1: lost
	rows  [][]int
}

func newPlan(f Flow) *plan {
	p := &plan{flow: f, back: map[[2]int]bool{}, ranks: make([]int, len(f.Steps)), ways: make([][]way, len(f.Steps)), to: make([][]int, len(f.Steps))}
	for i, s := range f.Steps {
		p.ranks[i] = -1
		for _, w := range s.ways() {
			at := slices.IndexFunc(f.Steps, func(s Step) bool { return s.ID == w.to })
			if w.to != "" && at >= 0 {
				p.ways[i], p.to[i] = append(p.ways[i], w), append(p.to[i], at)
			}
		}
	}
	return p
}

// rank finds what leads back, going into depth from the first step, and gives each step
// the row below the last of those that lead to it.
func (p *plan) rank() {
	if len(p.flow.Steps) == 0 {
		return
	}
	const fresh, open, done = 0, 1, 2
	state := make([]int, len(p.flow.Steps))
	var after []int // each behind all that follow it
	var visit func(i int)
	visit = func(i int) {
		state[i] = open
		for _, to := range p.to[i] {
			switch state[to] {
			case fresh:
				visit(to)
			case open:
				p.back[[2]int{i, to}] = true
			}
		}
		state[i] = done
		after = append(after, i)
	}
	visit(0)
	p.ranks[0] = 0
	for at := len(after) - 1; at >= 0; at-- {
		i := after[at]
		for _, to := range p.to[i] {
			if !p.back[[2]int{i, to}] {
				p.ranks[to] = max(p.ranks[to], p.ranks[i]+1)
			}
		}
	}
	last := 0
	for _, r := range p.ranks {
		last = max(last, r)
	}
	p.rows = make([][]int, last+1)
	var lost []int
	for i, r := range p.ranks {
		if r < 0 {
			lost = append(lost, i)
		} else {
			p.rows[r] = append(p.rows[r], i)
		}
	}
	if len(lost) > 0 {
		p.rows = append(p.rows, lost)
	}
}

// passes are more than any flow of a hundred steps was seen to need.
const passes = 8

// order sorts each row by the middle of what leads to it, and then of where it leads.
func (p *plan) order() {
	from := make([][]int, len(p.flow.Steps))
	for i, list := range p.to {
		for _, to := range list {
			from[to] = append(from[to], i)
		}
	}
	for pass := range passes {
		place := p.places()
		near := from
		if pass%2 == 1 {
			near = p.to
		}
		middle := func(i int) float64 {
			sum, n := 0.0, 0
			for _, other := range near[i] {
				if p.ranks[other] != p.ranks[i] && p.ranks[other] >= 0 {
					sum, n = sum+place[other], n+1
				}
			}
			if n == 0 {
				return place[i]
			}
			return sum / float64(n)
		}
		for _, row := range p.rows {
			slices.SortStableFunc(row, func(a, b int) int {
				switch d := middle(a) - middle(b); {
				case d < 0:
					return -1
				case d > 0:
					return 1
				}
				return 0
			})
		}
	}
}

// places returns where steps stand across, from the middle of their rows.
func (p *plan) places() []float64 {
	place := make([]float64, len(p.flow.Steps))
	for _, row := range p.rows {
		for n, i := range row {
			place[i] = float64(n) - float64(len(row)-1)/2
		}
	}
	return place
}

func (p *plan) drawing() Drawing {
	widest := 1
	for _, row := range p.rows {
		widest = max(widest, len(row))
	}
	d := Drawing{Boxes: []DrawnStep{}, Lines: []DrawnWay{}}
	inner := widest*BoxWidth + (widest-1)*gapAcross
	at := make([]Corner, len(p.flow.Steps))
	for r, row := range p.rows {
		width := len(row)*BoxWidth + (len(row)-1)*gapAcross
		for n, i := range row {
			at[i] = Corner{margin + (inner-width)/2 + n*(BoxWidth+gapAcross), margin + r*(BoxHeight+gapDown)}
			d.Boxes = append(d.Boxes, DrawnStep{Step: p.flow.Steps[i].ID, X: at[i].X, Y: at[i].Y, Lost: p.ranks[i] < 0})
		}
	}
	beside := lanes{}
	for i, list := range p.to {
		for n, to := range list {
			e := DrawnWay{From: p.flow.Steps[i].ID, To: p.flow.Steps[to].ID, Label: p.ways[i][n].label, Back: at[to].Y <= at[i].Y}
			out := at[i].X + BoxWidth*(n+1)/(len(list)+1)
			if e.Back || p.ranks[to] > p.ranks[i]+1 {
				n := beside.free(min(at[i].Y, at[to].Y-gapDown), max(at[i].Y, at[to].Y)+BoxHeight+gapDown)
				e.Corners = p.around(at[i], at[to], out, margin+inner+(n+1)*lane)
			} else {
				middle := at[to].Y - gapDown/2 + (n-len(list)/2)*3
				e.Corners = []Corner{{out, at[i].Y + BoxHeight}, {out, middle}, {at[to].X + BoxWidth/2, middle}, {at[to].X + BoxWidth/2, at[to].Y}}
			}
			d.Lines = append(d.Lines, e)
		}
	}
	d.Width = margin + inner + len(beside)*lane + margin
	d.Height = margin + len(p.rows)*(BoxHeight+gapDown) - gapDown + margin
	if len(p.rows) == 0 {
		d.Height = 2*margin + BoxHeight
	}
	return d
}

// lanes are the places beside the boxes in which lines lead past them, each with the
// stretches that are taken.
type lanes [][][2]int

// free takes the first lane in which nothing leads past a stretch yet.
func (l *lanes) free(from, to int) int {
	for i, taken := range *l {
		if !slices.ContainsFunc(taken, func(t [2]int) bool { return from < t[1] && t[0] < to }) {
			(*l)[i] = append(taken, [2]int{from, to})
			return i
		}
	}
	*l = append(*l, [][2]int{{from, to}})
	return len(*l) - 1
}

// around leads a line past the boxes in between, at the side.
func (p *plan) around(from, to Corner, out, side int) []Corner {
	below, above := from.Y+BoxHeight+gapDown/3, to.Y-gapDown/3
	return []Corner{{out, from.Y + BoxHeight}, {out, below}, {side, below}, {side, above}, {to.X + BoxWidth/2 + 8, above}, {to.X + BoxWidth/2 + 8, to.Y}}
}
