package facts

import (
	"context"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/core/measure"
)

// Log is the log of a chat that is over, with what its facts need besides.
type Log struct {
	Of
	Events []chat.Event
}

// AddPast stores the facts of chats that are taken in from elsewhere, without the
// quarters of an hour; see RecountAll.
func AddPast(ctx context.Context, tx pgx.Tx, rules measure.Rules, logs []Log) error {
	var chats, operators [][]any
	for _, l := range logs {
		c, err := measure.Of(l.Events, rules)
		if err != nil {
			return err
		}
		chats = append(chats, chatRow(l.Of, c))
		operators = append(operators, operatorRows(l.Of, c)...)
	}
	return add(ctx, tx, chats, operators)
}
