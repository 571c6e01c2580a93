package chat

import (
	"fmt"
	"slices"
)

// mustFit refuses an event that none of the acts would produce in this state:
// by whom it was not theirs to do, or of what is not there. What is asked here
// does not depend on settings, roles or clocks.
func (s State) mustFit(e Event, d Detail) error {
	if s.fits(e, d) {
		return nil
	}
	return fmt.Errorf("%w: %s by %s %q while %s", ErrBadEvent, e.Kind, e.By.Side, e.By.ID, s.Phase)
}

func (s State) fits(e Event, d Detail) bool {
	team, house := e.By.Side == TeamSide && e.By.ID != "", e.By == House
	visitor := e.By.Side == VisitorSide && e.By.ID != "" && (e.Kind == Started || e.By.ID == s.Visitor)
	owner := team && e.By.ID == s.Owner
	active, waiting, over := s.Phase == Active, s.Phase == Waiting, s.Phase == Over
	talks := visitor || active && (owner || team && s.isGuest(e.By.ID))
	earlier := e.UpTo >= 1 && e.UpTo <= s.Last
	switch e.Kind {
	case Started, Reminded:
		return e.Kind == Started && visitor || e.Kind == Reminded && house && active
	case Automatic:
		return house && (active || waiting) && e.Text != "" && d.Rule != "" && d.On != ""
	case Said:
		return talks && e.Text != ""
	case Shared:
		return talks && d.File != nil
	case Corrected, Withdrawn:
		return talks && earlier && !slices.Contains(s.TakenBack, e.UpTo)
	case Refused:
		return visitor && earlier && !slices.Contains(s.TakenBack, e.UpTo)
	case CardUsed:
		return visitor && earlier && d.How != ""
	case Rated:
		return visitor && s.Surveyed && d.Rating >= RatingLeast && d.Rating <= RatingMost
	case FeedbackRead:
		return team && s.Feedback.ToRead() && e.UpTo == s.Feedback.Number
	case Delivered, Seen:
		return (visitor || owner) && earlier
	case Ended:
		return e.Ending != "" && (house || visitor || team)
	case Taken:
		switch {
		case !team || e.By.ID == s.Owner && active:
			return false
		case waiting, active && d.How == TookOver:
			return true
		}
		return active && s.HandingOn != nil && (s.HandingOn.To == e.By.ID || s.HandingOn.Department != "")
	case Routed:
		return house && waiting
	case Overflowed:
		return house && s.seeks() && d.Department != ""
	case Offered:
		return house && s.seeks() && s.Offered == nil && d.Until != nil && d.Operator != ""
	case Passed:
		return s.Offered != nil && d.Operator == s.Offered.To && (house || team && e.By.ID == d.Operator)
	case HandedOn:
		return (owner || house) && active && s.HandingOn == nil && d.Until != nil && (d.Operator == "") != (d.Department == "")
	case Returned:
		return s.HandingOn != nil && (house || owner || team && e.By.ID == s.HandingOn.To)
	case WasPutBack:
		return active && d.Operator == s.Owner && (house || owner)
	case KeptAsMessage:
		return waiting && (house || visitor)
	case WrappedUp:
		return over && s.WrapUntil != nil && (house || owner)
	case Joined:
		return team && active && d.Operator != "" && d.Operator != s.Owner && !s.isGuest(d.Operator)
	case Left:
		return active && s.isGuest(d.Operator) && (owner || team && e.By.ID == d.Operator)
	case SetAside, PickedUp:
		return owner && active && s.Unread == (e.Kind == PickedUp)
	case Called:
		return (owner || house) && active && s.Call == nil
	case CallOver:
		return owner && active && s.Call != nil
	case Watched, Unwatched:
		return team && slices.Contains(s.Watchers, e.By.ID) == (e.Kind == Unwatched)
	case HelperBegan, HelperSaid, HelperMoved, HelperLeft:
		return s.helperFits(e, d)
	case TranslationBegan, TranslationOver, Translated:
		return s.translationFits(e, d)
	case AlongAsked, AlongMoved:
		return s.alongFits(e, d)
	case PageOffered, PageMoved:
		return s.pageFits(e, d)
	case ChannelAsked, ChannelMoved, NotDelivered:
		return s.overFits(e, d)
	case Tagged, Untagged:
		return (team || house && e.Kind == Tagged) && slices.Contains(s.Tags, d.Tag) == (e.Kind == Untagged)
	case Whispered:
		return team && active
	case Ticketed:
		return (team || house) && d.Ticket != nil && d.Ticket.Number > 0
	case Noted, Summarised, Concluded, Named:
		return team
	}
	return true // of an unknown kind; told as such
}
