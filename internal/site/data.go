package site

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/golang-jwt/jwt/v5"
	"golang.org/x/text/currency"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/site/visits"
)

// SaidOfVisitor is what a page's script says of the visitor.
type SaidOfVisitor struct {
	Tab   string `json:"tab"`
	Token string `json:"token"`

	Signed string                     `json:"signed,omitempty" doc:"A token that the site signed (JWT, HS256)"`
	Person map[string]string          `json:"person,omitempty"`
	Fields map[string]json.RawMessage `json:"fields,omitempty"`
	Basket *SaidBasket                `json:"basket,omitempty"`
	Event  string                     `json:"event,omitempty"`
}

// SaidBasket is a basket as a page tells it, in whole units of the currency, as
// people write prices.
type SaidBasket struct {
	Currency string      `json:"currency,omitempty"`
	Total    json.Number `json:"total,omitempty" doc:"Left out: the sum of the lines"`
	Lines    []struct {
		Text  string      `json:"text"`
		Price json.Number `json:"price"`
	} `json:"lines,omitempty"`
}

// Limits of what a page may say.
const (
	fieldsMost    = 30
	fieldLength   = 200
	linesMost     = 50
	lineLength    = 120
	priceMost     = 1_000_000_000 // in the smallest unit
	leeway        = 60 * time.Second
	longestVouch  = 24 * time.Hour // between now and when a token expires
	claimsCounted = 40
)

func wrongData(detail string) error {
	return problem.New(http.StatusUnprocessableEntity, "bad-data", "What the page said of the visitor was not taken", detail)
}

// said takes what a page's script says of the visitor. What is wrong in it leaves all
// as it was.
func (room *Room) said(ctx context.Context, v access.Visitor, in SaidOfVisitor) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	if s.Site.Privacy.CollectNothing {
		return wrongData("This Stoop collects nothing of visitors.")
	}
	if err := room.awaited(ctx, v.ID); err != nil {
		return err
	}
	switch {
	case in.Signed != "":
		claims, err := vouched(s.SiteData, in.Signed, room.Now())
		if err != nil {
			return err
		}
		return room.takeVouched(ctx, v, claims)
	case in.Person != nil:
		return room.takeClaimed(ctx, v, in.Person)
	case in.Fields != nil:
		fields, err := plainFields(in.Fields)
		if err != nil {
			return err
		}
		room.Guests.SetData(v.ID, room.Now(), func(d *visits.Data) { d.Claimed = merged(d.Claimed, fields) })
		return nil
	case in.Basket != nil:
		basket, err := basketOf(*in.Basket, room.Now())
		if err != nil {
			return err
		}
		room.Guests.SetBasket(v.ID, basket, room.Now())
		return room.tellGuest(ctx, v.ID)
	case in.Event != "":
		name := chat.CleanLine(in.Event, fieldLength)
		room.Guests.SetData(v.ID, room.Now(), func(d *visits.Data) {
			d.Claimed = merged(d.Claimed, map[string]string{"event": name, "event:" + name: "yes"})
		})
		return nil
	}
	return wrongData("It says nothing: give signed, person, fields, basket or event.")
}

// How long it is waited for a visitor whose page was reported a moment ago: who they
// are is being found out, or another server heard of them.
const (
	awaitedFor = 4 * time.Second
	lookedFor  = 50 * time.Millisecond // how often
)

// awaited waits until a visitor is known here: what is said of nobody would be lost.
func (room *Room) awaited(ctx context.Context, visitorID string) error {
	if room.Guests.Has(visitorID) {
		return nil
	}
	ctx, stop := context.WithTimeout(ctx, awaitedFor)
	defer stop()
	tick := time.NewTicker(lookedFor)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			p := problem.New(http.StatusConflict, "not-here", "This visitor is not on the site", "Nothing was kept. Say it again when the page has been reported.")
			p.Retry = true
			return p
		case <-tick.C:
			if room.Guests.Has(visitorID) {
				return nil
			}
		}
	}
}

// tellGuest tells those who see a visitor's chat that something about them changed.
func (room *Room) tellGuest(ctx context.Context, visitorID string) error {
	g, here := room.Guests.Guest(visitorID)
	if !here || g.Chat == nil {
		return nil
	}
	return room.tellPlace(ctx, visitorID, g.Visit)
}

// merged returns fields with others over them; what is empty is taken away. Beyond
// what may be kept nothing is added.
func merged(before, fields map[string]string) map[string]string {
	out := map[string]string{}
	for name, value := range before {
		out[name] = value
	}
	for name, value := range fields {
		if value == "" {
			delete(out, name)
		} else if _, there := out[name]; there || len(out) < 2*fieldsMost {
			out[name] = value
		}
	}
	return out
}

// plainFields reads the fields that a page gives: texts, numbers, yes and no.
func plainFields(raw map[string]json.RawMessage) (map[string]string, error) {
	if len(raw) > fieldsMost {
		return nil, wrongData("There can be up to 30 fields at once.")
	}
	out := map[string]string{}
	for name, data := range raw {
		if name = chat.CleanLine(name, 60); name == "" {
			return nil, wrongData("Each field needs a name.")
		}
		var value any
		decoder := json.NewDecoder(strings.NewReader(string(data)))
		decoder.UseNumber()
		if err := decoder.Decode(&value); err != nil {
			return nil, wrongData(fmt.Sprintf("The field %q cannot be read.", name))
		}
		text, ok := plain(value)
		if !ok {
			return nil, wrongData(fmt.Sprintf("The field %q must be a text, a number, true, false or null.", name))
		}
		out[name] = text
	}
	return out, nil
}

// plain returns a value as text; of lists and objects there is none.
func plain(value any) (string, bool) {
	switch v := value.(type) {
	case nil:
		return "", true
	case string:
		return chat.CleanLine(v, fieldLength), true
	case json.Number:
		return v.String(), len(v) <= fieldLength
	case float64:
		return strconv.FormatFloat(v, 'f', -1, 64), true
	case bool:
		if v {
			return "yes", true
		}
		return "no", true
	}
	return "", false
}

// basketOf reads a basket; an empty one is none.
func basketOf(in SaidBasket, now time.Time) (*visits.Basket, error) {
	b := &visits.Basket{Currency: strings.ToUpper(strings.TrimSpace(in.Currency)), ChangedAt: now}
	digits := 2
	if b.Currency != "" {
		unit, err := currency.ParseISO(b.Currency)
		if err != nil {
			return nil, wrongData("The basket's currency is not one of ISO 4217, like EUR.")
		}
		digits, _ = currency.Standard.Rounding(unit)
	}
	if len(in.Lines) > linesMost {
		return nil, wrongData("A basket can have up to 50 lines.")
	}
	for _, l := range in.Lines {
		cents, err := amount(l.Price, digits)
		if err != nil {
			return nil, err
		}
		b.Lines = append(b.Lines, visits.BasketLine{Text: chat.CleanLine(l.Text, lineLength), Cents: cents})
		b.Cents += cents
	}
	if in.Total != "" {
		total, err := amount(in.Total, digits)
		if err != nil {
			return nil, err
		}
		b.Cents = total
	}
	if b.Cents < 0 {
		return nil, wrongData("A basket cannot be worth less than nothing.")
	}
	if b.Cents > priceMost {
		return nil, wrongData("A basket cannot be worth that much.")
	}
	if len(b.Lines) == 0 && b.Cents == 0 {
		return nil, nil
	}
	return b, nil
}

// amount reads a price in whole units. A line may be a discount; how much a basket is
// worth together is looked at elsewhere.
func amount(price json.Number, digits int) (int64, error) {
	value, err := price.Float64()
	if err != nil {
		return 0, wrongData("A price must be a number, like 14.50.")
	}
	scaled := value
	for range digits {
		scaled *= 10
	}
	if !(scaled <= priceMost && scaled >= -priceMost) {
		return 0, wrongData("A price cannot be that large.")
	}
	if scaled < 0 {
		return int64(scaled - 0.5), nil
	}
	return int64(scaled + 0.5), nil
}

// claimed reads what a page says of who the visitor is. Anybody could say it.
func (room *Room) takeClaimed(ctx context.Context, v access.Visitor, person map[string]string) error {
	name, email, phone := chat.CleanLine(person["name"], chat.NameLimit), chat.CleanLine(person["email"], form.EmailLimit), chat.CleanLine(person["phone"], 40)
	if email != "" && !form.ValidEmail(email) {
		return wrongData("The email does not look like one.")
	}
	if phone != "" && !form.ValidPhone(phone) {
		return wrongData("The phone number does not look like one.")
	}
	if err := room.Register.EnsureVisitorOf(ctx, v.ID, v.WidgetID, room.Now()); err != nil {
		return err
	}
	if err := room.Register.NameVisitor(ctx, v.ID, name, email, phone, nil); err != nil {
		return err
	}
	return room.meet(ctx, v.ID)
}

// meet looks up anew who somebody is.
func (room *Room) meet(ctx context.Context, visitorID string) error {
	people, err := room.Register.Persons(ctx, []string{visitorID})
	if err != nil {
		return err
	}
	p := people[visitorID]
	room.Guests.Meet(visitorID, personOf(p))
	return nil
}

// Claims are what a site vouches for by signing them.
type Claims struct {
	jwt.RegisteredClaims
	Name, Email, Phone string
	Fields             map[string]string
}

// vouched reads a token that a site signed, by RFC 7519 with HS256 of RFC 7518: it
// must be signed with a key that is in use, be for this Stoop, name somebody, and
// expire, but not in the far future.
func vouched(d settings.SiteData, signed string, now time.Time) (c Claims, err error) {
	refuse := func(detail string) error {
		return problem.New(http.StatusForbidden, "not-vouched", "The site's signature was not accepted", detail)
	}
	if len(signed) > 8<<10 {
		return c, refuse("The token is longer than 8 kB.")
	}
	claims := jwt.MapClaims{}
	keys := func(t *jwt.Token) (any, error) {
		if kid, given := t.Header["kid"].(string); given {
			for _, k := range d.Keys {
				if k.ID == kid {
					return []byte(k.Secret), nil
				}
			}
			return nil, errors.New("no such key")
		}
		set := jwt.VerificationKeySet{}
		for _, k := range d.Keys {
			set.Keys = append(set.Keys, []byte(k.Secret))
		}
		if len(set.Keys) == 0 {
			return nil, errors.New("no key")
		}
		return set, nil
	}
	_, err = jwt.ParseWithClaims(signed, claims, keys, jwt.WithValidMethods([]string{jwt.SigningMethodHS256.Alg()}), jwt.WithAudience(d.Audience),
		jwt.WithExpirationRequired(), jwt.WithLeeway(leeway), jwt.WithTimeFunc(func() time.Time { return now }))
	switch {
	case errors.Is(err, jwt.ErrTokenExpired):
		return c, refuse("The token has expired. Sign a new one with each page; check the site's clock.")
	case errors.Is(err, jwt.ErrTokenNotValidYet), errors.Is(err, jwt.ErrTokenUsedBeforeIssued):
		return c, refuse("The token is not valid yet. Check the site's clock.")
	case errors.Is(err, jwt.ErrTokenInvalidAudience):
		return c, refuse(fmt.Sprintf("The token must be for the audience %q.", d.Audience))
	case errors.Is(err, jwt.ErrTokenRequiredClaimMissing):
		return c, refuse("The token must have exp and aud.")
	case err != nil:
		return c, refuse("It is not signed with a key that is in use, by HS256.")
	}
	expires, err := claims.GetExpirationTime()
	if err != nil || expires.Sub(now) > longestVouch+leeway {
		return c, refuse("The token must expire within 24 hours.")
	}
	subject, err := claims.GetSubject()
	if c.Subject = chat.CleanLine(subject, fieldLength); err != nil || c.Subject == "" {
		return c, refuse("The token must name the person in sub, by the site's own id.")
	}
	if len(claims) > claimsCounted {
		return c, refuse("The token has more than 40 claims.")
	}
	return c, c.read(claims, refuse)
}

func (c *Claims) read(claims jwt.MapClaims, refuse func(string) error) error {
	c.Fields = map[string]string{}
	for name, value := range claims {
		switch name {
		case "sub", "aud", "exp", "iat", "nbf", "iss", "jti":
			continue
		}
		text, ok := plain(value)
		if !ok {
			return refuse(fmt.Sprintf("The claim %q must be a text, a number, true, false or null.", chat.CleanLine(name, 60)))
		}
		switch name {
		case "name":
			c.Name = chat.CleanLine(text, chat.NameLimit)
		case "email":
			if c.Email = text; text != "" && !form.ValidEmail(text) {
				return refuse("The email does not look like one.")
			}
		case "phone":
			c.Phone = chat.CleanLine(text, 40)
		default:
			c.Fields[chat.CleanLine(name, 60)] = text
		}
	}
	return nil
}

// takeVouched takes what a site signed: the visitor is the site's own customer, and
// so the contact with that id.
func (room *Room) takeVouched(ctx context.Context, v access.Visitor, c Claims) error {
	if err := room.Register.EnsureVisitorOf(ctx, v.ID, v.WidgetID, room.Now()); err != nil {
		return err
	}
	if err := room.People.Vouched(ctx, v.ID, c.Subject, c.Name, c.Email, c.Phone); err != nil {
		return err
	}
	fields := map[string]string{"id": c.Subject}
	for name, value := range c.Fields {
		fields[name] = value
	}
	room.Guests.SetData(v.ID, room.Now(), func(d *visits.Data) { d.Vouched = fields }) // all that is vouched for now
	return room.meet(ctx, v.ID)
}
