package settings

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"slices"
	"strings"

	"gorm.io/gorm"

	"stoop/internal/store"
)

// errRehearsed undoes what was only tried.
var errRehearsed = errors.New("only tried")

// Together makes many changes in one transaction, of which all are made or none, and
// returns what became different. With rehearse nothing is kept: it tells what would be.
// State must be that of which whoever changes has read, if it is given; otherwise the
// error is store.ErrChanged. The tables that change is given are those of the
// transaction.
func (s Tables) Together(ctx context.Context, state string, rehearse bool, change func(Tables) error) (changes []Change, was string, err error) {
	err = s.ChangeSettings(ctx, func(tx *gorm.DB) error {
		before, err := things(tx)
		if err != nil {
			return err
		}
		if was = stateOf(before); state != "" && state != was {
			return store.ErrChanged
		}
		inside := *s.Store
		inside.DB = tx
		if err := change(Tables{Store: &inside, within: tx}); err != nil {
			return err
		}
		after, err := things(tx)
		if err != nil {
			return err
		}
		changes = Differences(before, after)
		if rehearse {
			return errRehearsed
		}
		return nil
	})
	if errors.Is(err, errRehearsed) {
		err = nil
	}
	return changes, was, err
}

// stateOf returns a mark of a whole set-up: another one has another mark.
func stateOf(things []Thing) string {
	sum := sha256.New()
	things = slices.SortedFunc(slices.Values(things), func(a, b Thing) int {
		return cmp.Or(strings.Compare(a.Kind, b.Kind), strings.Compare(a.ID, b.ID))
	})
	for _, t := range things {
		for _, part := range [][]byte{[]byte(t.Kind), []byte(t.ID), t.JSON} {
			sum.Write(part)
			sum.Write([]byte{0})
		}
	}
	return hex.EncodeToString(sum.Sum(nil))[:24]
}
