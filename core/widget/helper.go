package widget

import "slices"

// When the helper answers first.
const (
	HelperNever  = "never"
	HelperAlways = "always"
	HelperNobody = "nobody" // when nobody of the team is in
	HelperWait   = "wait"   // when a visitor has waited for so long; they keep their place
)

// Helper says when a flow of the helper answers before a person does.
type Helper struct {
	When    string `json:"when" enum:"never,always,nobody,wait" doc:"Always first; when nobody is in; beside the queue, after a wait"`
	Flow    string `json:"flow" doc:"Id of the flow"`
	Seconds int    `json:"seconds" doc:"For wait: after which it speaks"`
}

const usualHelperWait = 60

// First reports whether the helper is the first to answer a chat: when somebody could
// take it, or when nobody could.
func (h Helper) First(somebodyIn bool) bool {
	return h.Flow != "" && (h.When == HelperAlways || h.When == HelperNobody && !somebodyIn)
}

// tidy puts what is missing in the place of nothing.
func (h *Helper) tidy() {
	if h.When == "" {
		h.When = HelperNever
	}
	if h.Seconds == 0 {
		h.Seconds = usualHelperWait
	}
}

func (h Helper) check() (wrong wrongs) {
	if !slices.Contains([]string{HelperNever, HelperAlways, HelperNobody, HelperWait}, h.When) {
		wrong.at("helper.when", "Choose when the helper answers.")
	}
	if h.When != HelperNever && h.Flow == "" {
		wrong.at("helper.flow", "Choose which flow answers.")
	}
	if h.Seconds < leastSeconds || h.Seconds > 3600 {
		wrong.at("helper.seconds", "This must be between 5 seconds and an hour.")
	}
	return wrong
}
