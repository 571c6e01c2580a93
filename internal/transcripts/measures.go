package transcripts

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/measure"
	"stoop/internal/facts"
	"stoop/internal/problem"
)

// ChatMeasures are what one chat's log says of it, by the definitions by which reports
// count. Times are in seconds.
type ChatMeasures struct {
	Target    int          `json:"target"`
	Wait      *int         `json:"wait,omitempty" doc:"Missing for messages"`
	InTarget  *bool        `json:"inTarget,omitempty"`
	Missed    string       `json:"missed,omitempty" doc:"Why, if it was"`
	First     *int         `json:"first,omitempty"`
	Later     *int         `json:"later,omitempty"`
	OpenReply *int         `json:"openReply,omitempty" doc:"Of a message: until the first answer, in open hours"`
	Replies   int          `json:"replies"`
	OnTime    int          `json:"onTime"`
	Silence   int          `json:"silence" doc:"The longest that the visitor was owed a word"`
	Turns     int          `json:"turns"`
	Lasted    int          `json:"lasted"`
	Handling  int          `json:"handling"`
	HandOns   int          `json:"handOns"`
	Operators []HolderView `json:"operators" doc:"Who took part, in the order in which they did"`
}

// HolderView is one operator's part in a chat.
type HolderView struct {
	Name   string `json:"name"`
	Held   int    `json:"held" doc:"Seconds as its owner, with the work after the end"`
	Lines  int    `json:"lines"`
	Beside bool   `json:"beside" doc:"They spoke beside the owner and never held it"`
}

// Measures returns what the log of an ended chat says of it.
func (room *Room) Measures(ctx context.Context, o access.Actor, chatID string) (ChatMeasures, error) {
	c, log, s, err := room.read(ctx, o, chatID)
	if err != nil {
		return ChatMeasures{}, err
	}
	if c.Phase != chat.Over {
		return ChatMeasures{}, problem.New(409, "chat-open", "This chat is not over", "Wait until it has ended.")
	}
	m, err := measure.Of(log, facts.Rules(s))
	if err != nil {
		return ChatMeasures{}, err
	}
	out := ChatMeasures{
		Target: m.Target, Wait: m.Wait, InTarget: m.InTarget, Missed: string(m.Missed), First: m.First, Later: m.Later, OpenReply: m.OpenReply, Replies: m.Replies, OnTime: m.OnTime,
		Silence: m.Silence, Turns: m.Turns, Lasted: m.Lasted, Handling: m.Active + m.WrapUp, HandOns: m.HandOns, Operators: []HolderView{},
	}
	for _, p := range m.Operators {
		out.Operators = append(out.Operators, HolderView{Name: room.Settings.OperatorName(p.ID), Held: p.Active + p.WrapUp, Lines: p.Lines, Beside: p.Guest})
	}
	return out, nil
}
