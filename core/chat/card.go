package chat

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
)

// Card is something of the system outside (a sailing, a discount, a booking), as it
// was when it was put into a chat. It is part of words that say the same, for whoever
// reads them where no card can be drawn.
type Card struct {
	Kind   string   `json:"kind"` // as the system outside calls it
	ID     string   `json:"id"`   // there
	Title  string   `json:"title"`
	Lines  []string `json:"lines,omitempty"`
	Price  *Money   `json:"price,omitempty"`
	Link   string   `json:"link,omitempty"` // on the site
	Basket bool     `json:"basket,omitempty"`
}

// The ways in which a visitor uses a card.
const (
	CardOpened   = "opened"
	CardInBasket = "basket"
)

// Limits of a card, in code points.
const (
	CardLinesMost  = 8
	CardLineLength = 160
	cardLinkLength = 1000
)

// currencyCode is the form of the codes of ISO 4217. Browsers refuse to write any other.
var currencyCode = regexp.MustCompile(`^[A-Z]{3}$`)

// Tidy returns a card as it may be stored: on single lines, with a link only if it is
// one of the web, and no price below nothing.
func (c Card) Tidy() Card {
	c.Kind, c.ID, c.Title = CleanLine(c.Kind, 40), CleanLine(c.ID, 80), CleanLine(c.Title, CardLineLength)
	lines := make([]string, 0, min(len(c.Lines), CardLinesMost))
	for _, line := range c.Lines {
		if line = CleanLine(line, CardLineLength); line != "" && len(lines) < CardLinesMost {
			lines = append(lines, line)
		}
	}
	c.Lines = lines
	if len(c.Link) > cardLinkLength || !strings.HasPrefix(c.Link, "https://") && !strings.HasPrefix(c.Link, "http://") {
		c.Link = ""
	}
	if c.Price != nil && (c.Price.Cents < 0 || !currencyCode.MatchString(c.Price.Currency)) {
		c.Price = nil
	}
	return c
}

// Words returns what a card says, without its price, which is written by the
// customs of whoever reads it.
func (c Card) Words() string {
	lines := append([]string{c.Title}, c.Lines...)
	if c.Link != "" {
		lines = append(lines, c.Link)
	}
	return strings.Join(lines, "\n")
}

// SayCard adds a card, by whoever of the team may speak.
func (s State) SayCard(by Party, clientID string, card Card, limit int, now time.Time) (Event, error) {
	if by.Side != TeamSide {
		return Event{}, ErrNotYours
	}
	card = card.Tidy()
	e, err := s.Say(by, clientID, card.Words(), limit, now)
	if err != nil {
		return Event{}, err
	}
	e.Detail = &Detail{Card: &card}
	return s.outward(e), nil
}

// UseCard is what the visitor did with a card. Each way counts once: the events of the
// second are those of the first.
func (s State) UseCard(by Party, said Event, how string, now time.Time) (Event, error) {
	switch {
	case s.Phase == "":
		return Event{}, ErrNotStarted
	case by.Side != VisitorSide || by.ID != s.Visitor:
		return Event{}, ErrNotYours
	case said.Detail == nil || said.Detail.Card == nil || slices.Contains(s.TakenBack, said.Number):
		return Event{}, ErrNotThat
	case how != CardOpened && (how != CardInBasket || !said.Detail.Card.Basket):
		return Event{}, ErrNotThat
	}
	return s.next(Event{Kind: CardUsed, By: by, ClientID: CardUseID(said.Number, how), UpTo: said.Number, Text: said.Detail.Card.Title, Detail: &Detail{How: how}}, now), nil
}

// CardUseID returns the client's id of the use of a card: one for each way.
func CardUseID(number int64, how string) string {
	return "card-" + strconv.FormatInt(number, 10) + "-" + how
}
