package view

import (
	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/internal/phone"
	"stoop/internal/setup/settings"
)

// WayView is a way beside the site by which words go, with what it carries.
type WayView struct {
	Kind    string `json:"kind" enum:"text,email"`
	Address string `json:"address,omitempty" doc:"The visitor's: a number as people read it, or an email; for the team"`
	Line    string `json:"line,omitempty" doc:"Name of the line; for the team"`
	Stopped bool   `json:"stopped,omitempty" doc:"They want no more text messages"`
	Files   bool   `json:"files,omitempty" doc:"Files go along"`
}

func (vs *Views) way(over *chat.Way, setup *settings.Settings) *WayView {
	if over == nil {
		return nil
	}
	v := &WayView{Kind: string(over.Kind), Address: over.Address, Stopped: over.Stopped, Files: channel.LimitsOf(over.Kind).Files}
	if over.Kind == channel.Text && over.Address != "" {
		v.Address = phone.Shown(over.Address)
	}
	if setup != nil {
		v.Line = setup.Channels.LineName(over.Line)
	}
	return v
}

// ways returns by which other ways a chat's visitor can be asked to go on.
func (vs *Views) ways(s chat.State, w settings.Widget, setup *settings.Settings) []string {
	list := []string{}
	if s.Phase == chat.Over {
		return list
	}
	now := s.WayKind()
	if now != channel.Site {
		list = append(list, string(channel.Site))
	}
	if _, has := setup.Channels.LineOf(channel.Text, w.ID); has && now != channel.Text {
		list = append(list, string(channel.Text))
	}
	if vs.Mail && now != channel.Email {
		list = append(list, string(channel.Email))
	}
	return list
}
