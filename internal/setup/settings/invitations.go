package settings

import (
	"fmt"

	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/invite"
	"stoop/core/routing"
)

// InvitationSettings are when visitors are invited to a chat.
type InvitationSettings struct {
	Version string                  `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Limits  invite.Limits           `json:"limits"`
	Rules   []invite.InvitationRule `json:"rules"`
}

func firstInvitations() InvitationSettings {
	return InvitationSettings{Limits: invite.Usual, Rules: []invite.InvitationRule{}}
}

// Tidy brings what was typed into the form in which it is stored.
func (s *InvitationSettings) Tidy() {
	if s.Rules == nil {
		s.Rules = []invite.InvitationRule{}
	}
	for i := range s.Rules {
		r := &s.Rules[i]
		r.Name = chat.CleanLine(r.Name, chat.NameLimit)
		r.Pages = TidyLines(r.Pages, 301)
		if r.Conditions == nil {
			r.Conditions = []routing.Condition{}
		}
		for _, text := range []*string{&r.Text, &r.Other} {
			clean, err := chat.CleanWords(*text, 10*invite.TextLength)
			if err != nil {
				clean = ""
			}
			*text = clean
		}
	}
}

// Check returns what is wrong with the settings, for the departments that there are.
func (s InvitationSettings) Check(of *Settings) []form.Wrong {
	var wrong []form.Wrong
	_, bad := invite.Compile(s.Rules)
	for _, w := range bad {
		wrong = append(wrong, form.Wrong{Field: w.Field, Words: w.Words})
	}
	for _, w := range s.Limits.Check() {
		wrong = append(wrong, form.Wrong{Field: "limits." + w.Field, Words: w.Words})
	}
	for i, r := range s.Rules {
		if d, known := of.Departments[r.Department]; r.Department != "" && (!known || d.RemovedAt != nil) {
			wrong = append(wrong, form.Wrong{Field: fmt.Sprintf("rules.%d.department", i), Words: "This department no longer exists. Choose another one."})
		}
	}
	return wrong
}
