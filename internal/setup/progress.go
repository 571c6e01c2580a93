package setup

import (
	"context"

	"stoop/core/access"
)

// Progress is how far Stoop is set up: computed from what there is, so that it can be
// left and gone on with, by whichever admin.
type Progress struct {
	Site       bool   `json:"site" doc:"There is a widget for a site"`
	Department bool   `json:"department" doc:"A department was set up and has members"`
	Looks      bool   `json:"looks" doc:"A widget is published"`
	Seen       bool   `json:"seen" doc:"A real page carried it"`
	Chat       bool   `json:"chat" doc:"A chat was answered"`
	Team       bool   `json:"team" doc:"There is more than one in the team"`
	Mails      bool   `json:"mails" doc:"Mail can be sent"`
	Widget     string `json:"widget,omitempty" doc:"Key of the widget that is being set up"`
}

// Done reports whether nothing is missing that a site needs.
func (p Progress) Done() bool { return p.Site && p.Department && p.Looks && p.Seen && p.Chat }

// Progress tells what of setting up is done, and what is missing.
func (room *Room) Progress(ctx context.Context, o access.Actor) (p Progress, err error) {
	if err := o.Must(access.SetUp); err != nil {
		return p, err
	}
	s, err := room.Settings.Read(ctx)
	if err != nil {
		return p, err
	}
	widgets, err := room.Settings.Tables.Widgets(ctx)
	if err != nil {
		return p, err
	}
	for i, w := range widgets {
		p.Site, p.Looks, p.Seen = true, p.Looks || !w.Off, p.Seen || w.FirstSeen != nil && !w.Off
		if i == 0 {
			p.Widget = w.Key
		}
	}
	for _, d := range s.InUse {
		p.Department = p.Department || d.Version > 1 && len(d.Members) > 0
	}
	p.Team, p.Mails = len(s.Team) > 1, room.Post.Sends()
	p.Chat, err = room.Tables.AnyAnswered(ctx)
	return p, err
}
