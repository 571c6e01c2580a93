package settings

import (
	"stoop/core/chat"
	"stoop/core/form"
)

// ReviewForm is by what leads review chats.
type ReviewForm struct {
	Version string   `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Points  []string `json:"points" doc:"Each is met, partly, or not"`
}

func firstReviewForm() ReviewForm {
	return ReviewForm{Points: []string{
		"Understood what the visitor wanted",
		"The answer was right and complete",
		"Clear and friendly words",
		"The visitor was never left waiting without a word",
		"Tags and outcome say what it was about",
	}}
}

const (
	pointsMost      = 8
	pointLengthMost = 120
)

// Tidy brings what was typed into the form in which it is stored.
func (f *ReviewForm) Tidy() {
	points := []string{}
	for _, p := range f.Points {
		if p = chat.CleanLine(p, pointLengthMost); p != "" {
			points = append(points, p)
		}
	}
	f.Points = points
}

// Check returns what is wrong with the form.
func (f ReviewForm) Check() []form.Wrong {
	seen := map[string]bool{}
	for _, p := range f.Points {
		if seen[p] {
			return []form.Wrong{{Field: "points", Words: "Each point may stand there once."}}
		}
		seen[p] = true
	}
	if len(f.Points) == 0 || len(f.Points) > pointsMost {
		return []form.Wrong{{Field: "points", Words: "A review has between 1 and 8 points."}}
	}
	return nil
}
