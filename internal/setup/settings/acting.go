package settings

import "stoop/core/acting"

// ActingSettings are the rules that act, in the order in which they do.
type ActingSettings struct {
	Version string              `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Rules   []acting.ActingRule `json:"rules" maxItems:"51"`
}

func firstActing() ActingSettings { return ActingSettings{Rules: []acting.ActingRule{}} }
