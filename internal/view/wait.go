package view

import (
	"time"

	"stoop/core/routing"
)

// WaitView is what a waiting visitor is told.
type WaitView struct {
	Place           int  `json:"place" doc:"In the queue, from 1; 0 when not known yet"`
	EstimateSeconds int  `json:"estimateSeconds" doc:"How long it will still take, rounded up to half minutes"`
	Known           bool `json:"known" doc:"Whether there is an estimate"`
}

// Wait tells a visitor how they stand. It rounds up to half minutes, of which there is at least one: more would
// be a promise that nobody can keep.
func Wait(w routing.Wait) WaitView {
	const step = 30 * time.Second
	view := WaitView{Place: w.Place, Known: w.Known}
	if w.Known {
		view.EstimateSeconds = int(max(step, (w.Estimate+step-1)/step*step).Seconds())
	}
	return view
}
