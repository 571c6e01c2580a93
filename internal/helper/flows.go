package helper

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/flow"
	"stoop/core/routing"
	"stoop/core/widget"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// Refusals of this room.
var (
	errNoFlow  = problem.New(http.StatusConflict, "no-flow", "This widget has no helper", "An admin can choose a flow for it under Setup.")
	errWrong   = problem.New(http.StatusUnprocessableEntity, "flow-wrong", "The flow cannot go live yet", "Look at what the check says, and mend it.")
	errTooMany = problem.New(http.StatusUnprocessableEntity, "flows-most", "There are 100 flows already", "Delete one that nobody uses.")
)

// flowsMost bounds how many flows there are.
const flowsMost = 100

// FlowView is a conversation of the helper as the admins work on it.
type FlowView struct {
	ID           string    `json:"id"`
	Flow         flow.Flow `json:"flow" doc:"What is being worked on; the admins share it"`
	DraftVersion int64     `json:"draftVersion" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	By           string    `json:"by" doc:"Name of who saved it last"`
	At           time.Time `json:"at"`
	LiveVersion  int64     `json:"liveVersion" doc:"That answers now; 0: it was never published"`
	Differs      bool      `json:"differs" doc:"What is being worked on is not what answers"`
	Widgets      []string  `json:"widgets" doc:"Names of the widgets in which it answers"`
}

// FlowPast is a version of a flow that was published.
type FlowPast struct {
	Version  int64     `json:"version"`
	Flow     flow.Flow `json:"flow"`
	By       string    `json:"by"`
	At       time.Time `json:"at"`
	Restores int64     `json:"restores,omitempty" doc:"The earlier version that it brought back"`
}

// FlowLook is how a flow stands that need not be saved.
type FlowLook struct {
	Problems []flow.StepProblem `json:"problems"`
	Drawing  flow.Drawing       `json:"drawing"`
	Texts    []flow.StepText    `json:"texts" doc:"What is to be translated, in order"`
}

// Flows returns all flows.
func (room *Room) Flows(ctx context.Context, o access.Actor) ([]FlowView, error) {
	if err := o.Must(access.SetUp); err != nil {
		return nil, err
	}
	list, err := room.Settings.Tables.Flows(ctx)
	if err != nil {
		return nil, err
	}
	s, err := room.Settings.Read(ctx)
	if err != nil {
		return nil, err
	}
	views := make([]FlowView, len(list))
	for i, f := range list {
		views[i] = room.flowView(s, f)
	}
	return views, nil
}

func (room *Room) flowView(s *settings.Settings, f settings.Flow) FlowView {
	v := FlowView{ID: f.ID, Flow: f.Draft, DraftVersion: f.DraftVersion, At: f.DraftAt, LiveVersion: f.LiveVersion, Widgets: []string{}}
	if f.DraftByID != nil {
		v.By = room.Settings.OperatorName(*f.DraftByID)
	}
	live, there := s.Flows[f.ID]
	v.Differs = !there || !live.Flow.Same(f.Draft)
	for _, w := range s.Widgets {
		if w.RemovedAt == nil && w.Helper.Flow == f.ID && w.Helper.When != widget.HelperNever {
			v.Widgets = append(v.Widgets, w.Name)
		}
	}
	slices.Sort(v.Widgets)
	return v
}

// AddFlow makes a flow: a first one to begin with, or a copy.
func (room *Room) AddFlow(ctx context.Context, o access.Actor, f flow.Flow) (FlowView, error) {
	if err := o.Must(access.SetUp); err != nil {
		return FlowView{}, err
	}
	list, err := room.Settings.Tables.Flows(ctx)
	if err != nil {
		return FlowView{}, err
	}
	if len(list) >= flowsMost {
		return FlowView{}, errTooMany
	}
	tidy(&f)
	row := settings.Flow{ID: uuid.NewString(), Name: f.Name, Draft: f, DraftVersion: 1, DraftByID: &o.ID, DraftAt: room.Now(), CreatedAt: room.Now()}
	if err := room.Settings.Tables.AddFlow(ctx, row); err != nil {
		return FlowView{}, err
	}
	return room.viewOf(ctx, row)
}

func (room *Room) viewOf(ctx context.Context, f settings.Flow) (FlowView, error) {
	s, err := room.Settings.Read(ctx)
	if err != nil {
		return FlowView{}, err
	}
	return room.flowView(s, f), nil
}

// FlowEdited is a flow that an admin wrote, with what they had read.
type FlowEdited struct {
	Flow         flow.Flow `json:"flow"`
	DraftVersion int64     `json:"draftVersion"`
}

// SaveFlow keeps a flow for the other admins and for later. It need not be fit to go live.
func (room *Room) SaveFlow(ctx context.Context, o access.Actor, id string, in FlowEdited) (FlowView, error) {
	row, err := room.edited(ctx, o, id, in)
	if err != nil {
		return FlowView{}, err
	}
	if row, err = room.Settings.Tables.SaveFlowDraft(ctx, row); err != nil {
		return FlowView{}, err
	}
	return room.viewOf(ctx, row)
}

func (room *Room) edited(ctx context.Context, o access.Actor, id string, in FlowEdited) (settings.Flow, error) {
	if err := o.Must(access.SetUp); err != nil {
		return settings.Flow{}, err
	}
	if uuid.Validate(id) != nil {
		return settings.Flow{}, store.ErrNotFound
	}
	row, err := room.Settings.Tables.Flow(ctx, id)
	if err != nil {
		return row, err
	}
	tidy(&in.Flow)
	row.Name, row.Draft, row.DraftVersion, row.DraftByID, row.DraftAt = in.Flow.Name, in.Flow, in.DraftVersion, &o.ID, room.Now()
	return row, nil
}

// PublishFlow makes a flow the one that answers from now on.
func (room *Room) PublishFlow(ctx context.Context, o access.Actor, id string, in FlowEdited) (FlowView, error) {
	row, err := room.edited(ctx, o, id, in)
	if err != nil {
		return FlowView{}, err
	}
	return room.publish(ctx, o, row, nil)
}

func (room *Room) publish(ctx context.Context, o access.Actor, row settings.Flow, restores *int64) (FlowView, error) {
	known, err := room.known(ctx)
	if err != nil {
		return FlowView{}, err
	}
	if flow.Blocked(row.Draft.Check(known)) {
		return FlowView{}, errWrong
	}
	row, err = room.Settings.Tables.PublishFlow(ctx, row, settings.FlowVersion{Flow: row.Draft, ByID: &o.ID, At: room.Now(), Restores: restores})
	if err != nil {
		return FlowView{}, err
	}
	room.Log.Info("a flow was published", "flow", row.ID, "version", row.LiveVersion, "by", o.ID)
	room.Changed()
	return room.viewOf(ctx, row)
}

// RestoreFlow puts a former version back.
func (room *Room) RestoreFlow(ctx context.Context, o access.Actor, id string, former, draftVersion int64) (FlowView, error) {
	row, err := room.edited(ctx, o, id, FlowEdited{DraftVersion: draftVersion})
	if err != nil {
		return FlowView{}, err
	}
	if row.Draft, err = room.Settings.Tables.FlowVersion(ctx, id, former); err != nil {
		return FlowView{}, err
	}
	row.Name = row.Draft.Name
	return room.publish(ctx, o, row, &former)
}

// RemoveFlow takes a flow out of use that answers nowhere.
func (room *Room) RemoveFlow(ctx context.Context, o access.Actor, id string) error {
	if err := o.Must(access.SetUp); err != nil {
		return err
	}
	if uuid.Validate(id) != nil {
		return store.ErrNotFound
	}
	row, err := room.Settings.Tables.Flow(ctx, id)
	if err != nil {
		return err
	}
	v, err := room.viewOf(ctx, row)
	if err != nil {
		return err
	}
	if len(v.Widgets) > 0 {
		return problem.New(http.StatusConflict, "in-use", "This is still in use", fmt.Sprintf("It answers in %s. Choose another flow there first.", strings.Join(v.Widgets, ", ")))
	}
	if err := room.Settings.Tables.RemoveFlow(ctx, id, room.Now()); err != nil {
		return err
	}
	room.Changed()
	return nil
}

// FlowHistory returns the versions of a flow that were published, the newest first.
func (room *Room) FlowHistory(ctx context.Context, o access.Actor, id string) ([]FlowPast, error) {
	if err := o.Must(access.SetUp); err != nil {
		return nil, err
	}
	if uuid.Validate(id) != nil {
		return nil, store.ErrNotFound
	}
	kept, err := room.Settings.Tables.FlowHistory(ctx, id)
	list := make([]FlowPast, len(kept))
	for i, v := range kept {
		list[i] = FlowPast{Version: v.Version, Flow: v.Flow, At: v.At}
		if v.ByID != nil {
			list[i].By = room.Settings.OperatorName(*v.ByID)
		}
		if v.Restores != nil {
			list[i].Restores = *v.Restores
		}
	}
	return list, err
}

// known is what flows may name.
func (room *Room) known(ctx context.Context) (flow.Known, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return flow.Known{}, err
	}
	known := flow.Known{Languages: widget.Shipped}
	for _, d := range s.InUse {
		known.Departments = append(known.Departments, d.ID)
	}
	return known, nil
}

// LookAt says what is wrong with a flow that need not be saved, and draws it.
func (room *Room) LookAt(ctx context.Context, o access.Actor, f flow.Flow) (FlowLook, error) {
	if err := o.Must(access.SetUp); err != nil {
		return FlowLook{}, err
	}
	tidy(&f)
	if len(f.Steps) > 2*flow.StepsMost {
		return FlowLook{}, errTooLarge
	}
	known, err := room.known(ctx)
	if err != nil {
		return FlowLook{}, err
	}
	return FlowLook{Problems: f.Check(known), Drawing: f.Draw(), Texts: f.AllTexts()}, nil
}

var errTooLarge = problem.New(http.StatusUnprocessableEntity, "flow-too-large", "The flow has too many steps", "A flow can have up to 100 steps. Split it in two.")

// FlowTrial is a turn of a flow with a simulated visitor.
type FlowTrial struct {
	Flow     flow.Flow         `json:"flow" doc:"As it stands on screen, saved or not"`
	Memory   flow.Memory       `json:"memory" doc:"Where the last turn left it; empty for the beginning"`
	Words    string            `json:"words" maxLength:"2000" doc:"That the visitor says"`
	Answers  map[string]string `json:"answers" doc:"That were given before, by name"`
	Language string            `json:"language" maxLength:"35"`
	PageURL  string            `json:"pageUrl" maxLength:"2000"`
	Facts    map[string]string `json:"facts" doc:"What else is known of the visitor, by field, such as outside.tier"`
	Open     bool              `json:"open" doc:"Somebody is in"`
	Hour     int               `json:"hour" minimum:"0" maximum:"23"`
}

// FlowTurn is what a flow does with a simulated visitor.
type FlowTurn struct {
	Memory     flow.Memory       `json:"memory"`
	Lines      []FlowLine        `json:"lines"`
	Answers    map[string]string `json:"answers"`
	Tags       []string          `json:"tags"`
	Then       string            `json:"then" enum:",leaves,keeps,ends" doc:"Empty: it waits for the visitor"`
	Department string            `json:"department,omitempty"`
	Failed     string            `json:"failed,omitempty" doc:"Why it cannot go on"`
	Path       []string          `json:"path" doc:"Ids of the steps that it took"`
}

// FlowLine is something that a flow says.
type FlowLine struct {
	Text       string   `json:"text"`
	Choices    []string `json:"choices"`
	Article    string   `json:"article,omitempty" doc:"Title of the article that it is from"`
	Confidence float64  `json:"confidence,omitempty"`
}

// Try takes a turn of a flow with a simulated visitor; nothing is kept.
func (room *Room) Try(ctx context.Context, o access.Actor, in FlowTrial) (FlowTurn, error) {
	if err := o.Must(access.SetUp); err != nil {
		return FlowTurn{}, err
	}
	tidy(&in.Flow)
	if len(in.Flow.Steps) > 2*flow.StepsMost {
		return FlowTurn{}, errTooLarge
	}
	facts := routing.Facts{PageURL: in.PageURL, Language: in.Language, Hour: in.Hour, Open: in.Open, Visits: 1, Form: map[string]string{}, Contact: map[string]string{}, Outside: map[string]string{}}
	for field, value := range in.Facts {
		facts.Set(field, value)
	}
	language := in.Flow.Speak(in.Language)
	d := widget.New("", nil)
	look := func(what flow.Search) (flow.Found, error) {
		ctx, cancel := context.WithTimeout(ctx, lookLimit)
		defer cancel()
		return room.look(ctx, what, d.ReadsIn(language), "trial of "+o.ID, "")
	}
	after, turn := in.Flow.Run(in.Memory, flow.Input{
		Words: in.Words, Facts: facts, Answers: in.Answers, Language: language, In: func(string) bool { return in.Open },
	}, d, look)
	out := FlowTurn{Memory: after, Lines: []FlowLine{}, Answers: map[string]string{}, Tags: append([]string{}, turn.Tags...), Then: turn.Then, Department: turn.Department, Failed: turn.Failed, Path: append([]string{}, turn.Path...)}
	for name, value := range in.Answers {
		out.Answers[name] = value
	}
	for _, a := range turn.Learned {
		out.Answers[a.Name] = a.Value
	}
	for _, l := range turn.Lines {
		line := FlowLine{Text: l.Text, Choices: append([]string{}, l.Choices...)}
		if a, is := l.Article.(chat.HelperArticle); is {
			line.Article, line.Confidence = a.Title, a.Confidence
		}
		out.Lines = append(out.Lines, line)
	}
	return out, nil
}

// tidy brings what was typed into the form in which it is stored.
func tidy(f *flow.Flow) {
	f.Tidy()
	f.Name = chat.CleanLine(f.Name, 200)
	for i := range f.Steps {
		s := &f.Steps[i]
		s.ID, s.Label, s.Name = strings.TrimSpace(s.ID), chat.CleanLine(s.Label, chat.NameLimit), strings.TrimSpace(s.Name)
		for n := range s.Tags {
			s.Tags[n] = chat.CleanTag(s.Tags[n])
		}
		for n := range s.Choices {
			s.Choices[n].Label = chat.CleanLine(s.Choices[n].Label, 200)
		}
		for n := range s.Cases {
			for k := range s.Cases[n].Keywords {
				s.Cases[n].Keywords[k] = chat.CleanLine(s.Cases[n].Keywords[k], 80)
			}
		}
	}
	for _, words := range f.Texts {
		for key, text := range words {
			if strings.TrimSpace(text) == "" {
				delete(words, key)
			}
		}
	}
}
