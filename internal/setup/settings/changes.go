package settings

import (
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"maps"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"stoop/core/access"
)

// Change is one thing of the set-up that was changed.
type Change struct {
	ID      int64
	At      time.Time
	ByID    *string
	Kind    string
	ThingID string
	Name    string          // as the thing was called
	Before  json.RawMessage // none: it was made
	After   json.RawMessage // none: it was removed
}

// TableName is the table's.
func (Change) TableName() string { return "setting_changes" }

// Thing is one thing of the set-up, as changes are noted of it.
type Thing struct {
	Kind, ID, Name string
	JSON           json.RawMessage
}

// ChangeSettings changes settings in one transaction and tells all servers when it is
// committed. What became different is noted, with who acts in the context: whatever
// changes settings goes through here, so that nothing is changed without a note.
func (s Tables) ChangeSettings(ctx context.Context, change func(*gorm.DB) error) error {
	if s.within != nil {
		// What is wrong with one change undoes that one only.
		return s.within.WithContext(ctx).Transaction(change)
	}
	return s.Store.ChangeSettings(ctx, func(tx *gorm.DB) error {
		if err := oneAfterTheOther(tx); err != nil {
			return err
		}
		before, err := things(tx)
		if err != nil {
			return err
		}
		if err := change(tx); err != nil {
			return err
		}
		after, err := things(tx)
		if err != nil {
			return err
		}
		changes := Differences(before, after)
		if len(changes) == 0 {
			return nil
		}
		now := time.Now()
		by, known := access.ActingIn(ctx)
		for i := range changes {
			changes[i].At = now
			if known {
				changes[i].ByID = &by.ID
			}
		}
		return tx.Create(&changes).Error
	})
}

// oneAfterTheOther lets a change of the set-up wait for those under way: what another does must not
// be taken for this one's.
func oneAfterTheOther(tx *gorm.DB) error {
	return tx.Exec("select pg_advisory_xact_lock(hashtext('stoop settings'))").Error
}

// SaveSetting replaces a value of the installation, if it is still the one that was
// read.
func (s Tables) SaveSetting(ctx context.Context, key, before, after string) error {
	return s.ChangeSettings(ctx, func(tx *gorm.DB) error { return s.ReplaceSetting(tx, key, before, after) })
}

// Differences returns what changed between two states of the set-up.
func Differences(before, after []Thing) []Change {
	type key struct{ kind, id string }
	were := map[key]Thing{}
	for _, t := range before {
		were[key{t.Kind, t.ID}] = t
	}
	var changes []Change
	for _, t := range after {
		was, existed := were[key{t.Kind, t.ID}]
		delete(were, key{t.Kind, t.ID})
		if existed && bytes.Equal(was.JSON, t.JSON) {
			continue
		}
		c := Change{Kind: t.Kind, ThingID: t.ID, Name: t.Name, After: t.JSON}
		if existed {
			c.Before = was.JSON
		}
		changes = append(changes, c)
	}
	for _, t := range were {
		changes = append(changes, Change{Kind: t.Kind, ThingID: t.ID, Name: t.Name, Before: t.JSON})
	}
	slices.SortFunc(changes, func(a, b Change) int {
		return cmp.Or(strings.Compare(a.Kind, b.Kind), strings.Compare(a.Name, b.Name), strings.Compare(a.ThingID, b.ThingID))
	})
	return changes
}

// RulesThing is the one thing that all routing rules are: their order is part of it.
const RulesThing = "rules"

// documents are the parts of the set-up that are stored as one text, by their keys,
// with what of them nobody may read.
var documents = map[string]func([]byte) []byte{
	DeskDocument.key: nil, SiteDocument.key: nil, RetentionDocument.key: nil, ReviewFormDocument.key: nil, TicketsDocument.key: nil, InvitationsDocument.key: nil, ActingDocument.key: nil, ChannelsDocument.key: nil,
	SiteDataDocument.key: withoutSecrets,
}

// things reads the whole set-up in a transaction.
func things(tx *gorm.DB) ([]Thing, error) {
	var list []Thing
	add := func(kind, id, name string, of any) error {
		data, err := json.Marshal(of)
		list = append(list, Thing{kind, id, name, data})
		return err
	}
	var rows []widgetRow
	if err := tx.Where("removed_at is null").Find(&rows).Error; err != nil {
		return nil, err
	}
	for _, w := range widgetsOf(rows) {
		if err := add("widget", w.ID, w.Name, struct {
			Design any  `json:"design"`
			Off    bool `json:"off"`
		}{w.Design, w.Off}); err != nil {
			return nil, err
		}
	}
	var departments []Department
	var members []Member
	if err := tx.Where("removed_at is null").Find(&departments).Error; err != nil {
		return nil, err
	}
	if err := tx.Order("department_id, operator_id").Find(&members).Error; err != nil {
		return nil, err
	}
	for _, d := range departments {
		d.Version, d.Members = 0, slices.DeleteFunc(slices.Clone(members), func(m Member) bool { return m.DepartmentID != d.ID })
		if err := add("department", d.ID, d.Name, d); err != nil {
			return nil, err
		}
	}
	var schedules []Hours
	if err := tx.Find(&schedules).Error; err != nil {
		return nil, err
	}
	for _, h := range schedules {
		h.Version = 0
		if err := add("hours", h.ID, h.Name, h); err != nil {
			return nil, err
		}
	}
	var rules []Rule
	if err := tx.Order("position").Find(&rules).Error; err != nil {
		return nil, err
	}
	if err := add(RulesThing, RulesThing, "", rules); err != nil {
		return nil, err
	}
	var team []Operator
	if err := tx.Find(&team).Error; err != nil {
		return nil, err
	}
	for _, o := range team {
		if err := add("person", o.ID, o.Name, personThing(o)); err != nil {
			return nil, err
		}
	}
	flows, err := liveFlows(tx)
	if err != nil {
		return nil, err
	}
	for _, f := range flows {
		if err := add("flow", f.ID, f.Name, f.Flow); err != nil {
			return nil, err
		}
	}
	var texts []struct{ Key, Value string }
	if err := tx.Table("settings").Where("key in ?", slices.Collect(maps.Keys(documents))).Find(&texts).Error; err != nil {
		return nil, err
	}
	for _, t := range texts {
		data := withoutVersion([]byte(t.Value))
		if clean := documents[t.Key]; clean != nil {
			data = clean(data)
		}
		list = append(list, Thing{t.Key, t.Key, "", data})
	}
	return list, nil
}

// PersonThing is what is noted of somebody of the team: no password, and not what they
// like in their own console.
type PersonThing struct {
	Name            string      `json:"name"`
	Email           string      `json:"email"`
	Role            access.Role `json:"role"`
	Active          bool        `json:"active"`
	Capacity        *int        `json:"capacity"`
	CapacityPercent int         `json:"capacityPercent"`
	Languages       []string    `json:"languages"`
	Password        string      `json:"password"` // a mark that changes with it
	ShownName       string      `json:"shownName"`
	Welcome         string      `json:"welcome"`
	Photo           int64       `json:"photo"`
	TwoFactor       bool        `json:"twoFactor"`
}

func personThing(o Operator) PersonThing {
	sum := sha256.Sum256([]byte("a mark of " + o.PasswordHash))
	return PersonThing{o.Name, o.Email, o.Role, o.Active, o.Capacity, o.CapacityPercent, append([]string{}, o.Languages...), hex.EncodeToString(sum[:4]),
		o.ShownName, o.Welcome, o.PhotoVersion, len(o.TOTPSecret) > 0}
}

// withoutVersion takes the version out of a document: it changes each time.
func withoutVersion(text []byte) []byte {
	var parts map[string]json.RawMessage
	if json.Unmarshal(text, &parts) != nil {
		return text
	}
	delete(parts, "version")
	data, err := json.Marshal(parts)
	if err != nil {
		return text
	}
	return data
}

// withoutSecrets takes the secrets out of what sites sign with.
func withoutSecrets(text []byte) []byte {
	var data SiteData
	if json.Unmarshal(text, &data) != nil {
		return []byte("{}")
	}
	for i := range data.Keys {
		data.Keys[i].Secret = ""
	}
	clean, err := json.Marshal(data)
	if err != nil {
		return []byte("{}")
	}
	return clean
}

// ChangesLike says which changes are meant.
type ChangesLike struct {
	Kind, ThingID, ByID string
	From, To            *time.Time
	Before              int64 // an id: those noted before it; 0 for the newest
	Limit               int
}

// CountChanges returns how many changes of the set-up were noted since a time.
func (s Tables) CountChanges(ctx context.Context, since time.Time) (int, error) {
	var n int64
	err := s.DB.WithContext(ctx).Model(&Change{}).Where("at > ?", since).Count(&n).Error
	return int(n), err
}

// Changes returns changes of the set-up, the newest first.
func (s Tables) Changes(ctx context.Context, like ChangesLike) ([]Change, error) {
	q := s.DB.WithContext(ctx).Order("id desc").Limit(like.Limit)
	for column, value := range map[string]string{"kind": like.Kind, "thing_id": like.ThingID, "by_id": like.ByID} {
		if value != "" {
			q = q.Where(column+" = ?", value)
		}
	}
	if like.From != nil {
		q = q.Where("at >= ?", *like.From)
	}
	if like.To != nil {
		q = q.Where("at < ?", *like.To)
	}
	if like.Before > 0 {
		q = q.Where("id < ?", like.Before)
	}
	var list []Change
	err := q.Find(&list).Error
	return list, err
}
