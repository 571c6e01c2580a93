package server_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
	"stoop/internal/reviews"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
)

func (f fixture) draw(o *talker.Operator, query string, order reviews.DrawOrder) (d reviews.Draw, err error) {
	return d, o.Post(f.ctx, "/api/review-draws?"+query, order, &d)
}

func (f fixture) ofDraw(o *talker.Operator, id string) (list []reviews.Review) {
	f.t.Helper()
	require.NoError(f.t, o.Get(f.ctx, "/api/review-draws/"+id, &list))
	return list
}

func chatsOf(list []reviews.Review) (ids []string) {
	for _, r := range list {
		ids = append(ids, r.Chat.ID)
	}
	return ids
}

// A lead draws a fair sample, which can be drawn again.
func TestALeadDrawsAFairSample(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, lead := f.operator(0, newInbox()), f.operator(3, newInbox())
	f.allCounted()
	order := reviews.DrawOrder{Name: "Week 48", Address: "rated=yes", Spread: "operator", Size: 6}
	_, err := f.draw(idris, "", order)
	requireProblem(t, err, "not-allowed")
	d, err := f.draw(lead, "", order)
	require.NoError(t, err)
	require.NotEmpty(t, d.Seed)
	require.EqualValues(t, f.plain("ending = 'answered' and owner_id <> (select id from operators where email = ?)", demo.Logins[3].Email), d.Candidates)
	list := f.ofDraw(lead, d.ID)
	require.Len(t, list, 6)
	each := map[string]int{}
	for _, r := range list {
		each[r.OperatorName]++
		require.NotEqual(t, "Maren Holt", r.OperatorName, "nobody reviews their own")
		require.Equal(t, "answered", r.Chat.Ending)
	}
	least, most := 6, 0
	for _, n := range each {
		least, most = min(least, n), max(most, n)
	}
	require.LessOrEqual(t, most-least, 1, "%v", each)

	order.Seed = d.Seed
	again, err := f.draw(lead, "", order)
	require.NoError(t, err)
	require.Equal(t, chatsOf(list), chatsOf(f.ofDraw(lead, again.ID)), "the same seed")
	order.Seed = "another"
	other, err := f.draw(lead, "", order)
	require.NoError(t, err)
	require.NotEqual(t, chatsOf(list), chatsOf(f.ofDraw(lead, other.ID)))
	rated, err := f.draw(lead, "rating=5&rating=4", reviews.DrawOrder{Spread: "rating", Size: 4})
	require.NoError(t, err)
	for _, r := range f.ofDraw(lead, rated.ID) {
		require.GreaterOrEqual(t, r.Chat.Feedback.Rating, 4)
	}
	_, err = f.draw(lead, "tag=nobody-uses-this", order)
	requireProblem(t, err, "nothing-to-draw")
	require.NoError(t, lead.Delete(f.ctx, "/api/review-draws/"+other.ID))
	requireProblem(t, lead.Delete(f.ctx, "/api/review-draws/"+other.ID), "not-found")
	requireProblem(t, idris.Get(f.ctx, "/api/review-draws", nil), "not-allowed")
	requireProblem(t, idris.Get(f.ctx, "/api/review-draws/"+d.ID, nil), "not-allowed")
	requireProblem(t, idris.Get(f.ctx, "/api/review-results", nil), "not-allowed")
	requireProblem(t, idris.Put(f.ctx, "/api/review-form", settings.ReviewForm{Points: []string{"Mine"}}), "not-allowed")
}

// What a colleague drew and is writing is not read, nor scored, by the lead whose chats they
// are; they get it when it is sent.
func TestNobodyReviewsTheirOwnChats(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, ansel := f.operator(3, newInbox()), f.operator(4, newInbox())
	f.allCounted()
	var marenID string
	require.NoError(t, f.Store.DB.Raw("select id::text from operators where email = ?", demo.Logins[3].Email).Scan(&marenID).Error)
	d, err := f.draw(ansel, "operator="+marenID, reviews.DrawOrder{Spread: "rating", Size: 2})
	require.NoError(t, err)
	drawn := f.ofDraw(ansel, d.ID)
	require.Len(t, drawn, 2)
	require.Empty(t, f.ofDraw(maren, d.ID))
	own := "/api/reviews/" + drawn[0].ID
	requireProblem(t, maren.Put(f.ctx, own, reviews.ReviewSaved{Version: drawn[0].Version, Scores: []reviews.Scored{{Point: "All was right", Score: "yes"}}, Send: true}), "not-allowed")
	require.NoError(t, ansel.Put(f.ctx, own, reviews.ReviewSaved{Version: drawn[0].Version, Scores: []reviews.Scored{}, Words: "Kindly put.", Send: true}))
	var mine []reviews.Review
	require.NoError(t, maren.Get(f.ctx, "/api/reviews/mine", &mine))
	require.Len(t, mine, 1)
	var draws []reviews.Draw
	require.NoError(t, ansel.Get(f.ctx, "/api/review-draws", &draws))
	require.Equal(t, 1, draws[0].Left)
	require.NoError(t, maren.Get(f.ctx, "/api/review-draws", &draws))
	require.Zero(t, draws[0].Left+draws[0].Sent, "none that is theirs to read")
}

// What a lead says of a chat its operator reads and answers, once it is sent; nobody else
// does, and the visitor least of all.
func TestAnOperatorReadsWhatALeadSays(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	toIdris, toVisitor := newInbox(), newInbox()
	idris, tove, lead, admin := f.operator(0, toIdris), f.operator(1, newInbox()), f.operator(3, newInbox()), f.operator(4, newInbox())
	wren := f.visitor(toVisitor)
	chatID := f.answered(wren, idris)
	f.counted(chatID)
	var idrisID string
	require.NoError(t, f.Store.DB.Raw("select id::text from operators where email = ?", demo.Logins[0].Email).Scan(&idrisID).Error)
	d, err := f.draw(lead, "operator="+idrisID+"&from="+time.Now().UTC().Format(time.DateOnly), reviews.DrawOrder{Spread: "operator", Size: 50})
	require.NoError(t, err)
	reviewed := func() reviews.Review {
		for _, r := range f.ofDraw(lead, d.ID) {
			if r.Chat.ID == chatID {
				return r
			}
		}
		t.Fatal("the chat of today was not drawn")
		return reviews.Review{}
	}
	drawn := reviewed()

	var form settings.ReviewForm
	require.NoError(t, idris.Get(f.ctx, "/api/review-form", &form), "everybody may know by what they are read")
	path := "/api/reviews/" + drawn.ID
	said := reviews.ReviewSaved{Version: drawn.Version, Words: "Zippy and kind.", Scores: []reviews.Scored{{Point: form.Points[0], Score: "yes"}, {Point: form.Points[1], Score: "partly"}, {Point: form.Points[2], Score: "none"}}}
	requireProblem(t, idris.Put(f.ctx, path, said), "not-allowed")
	requireProblem(t, lead.Put(f.ctx, path, reviews.ReviewSaved{Version: drawn.Version, Scores: []reviews.Scored{}, Send: true}), "bad-fields")
	require.NoError(t, lead.Put(f.ctx, path, said))
	requireProblem(t, admin.Put(f.ctx, path, said), "changed")
	mine := func(o *talker.Operator) (list []reviews.Review) {
		require.NoError(t, o.Get(f.ctx, "/api/reviews/mine", &list))
		return list
	}
	require.Empty(t, mine(idris), "not before it is sent")
	requireProblem(t, idris.Post(f.ctx, path+"/answer", map[string]string{"words": "Early"}, nil), "not-found")

	said.Version, said.Send = drawn.Version+1, true
	require.NoError(t, lead.Put(f.ctx, path, said))
	toIdris.until(t, func(m string) bool { return strings.Contains(m, `"type":"reviews"`) })
	got := mine(idris)[0]
	require.Equal(t, "Zippy and kind.", got.Words)
	require.Equal(t, "Maren Holt", got.By)
	require.Equal(t, 1.5, got.Points)
	require.Equal(t, 2, got.Of)
	require.Empty(t, mine(tove), "a colleague's")
	requireProblem(t, tove.Post(f.ctx, path+"/answer", map[string]string{"words": "Not mine"}, nil), "not-found")
	require.NoError(t, idris.Post(f.ctx, path+"/answer", map[string]string{"words": "Thanks."}, nil))
	after := reviewed()
	require.Equal(t, "Thanks.", after.Answer)
	require.NotNil(t, after.SeenAt)
	var results []reviews.Result
	require.NoError(t, lead.Get(f.ctx, "/api/review-results", &results))
	require.Equal(t, []reviews.Result{{OperatorID: idrisID, Name: "Idris Vane", Reviews: 1, Points: 1.5, Of: 2}}, results)

	// Nothing of it is in what the visitor may read, or was told.
	whole, err := idris.GetText(f.ctx, "/api/chats/"+chatID+"/transcript?format=json&notes=true")
	require.NoError(t, err)
	require.NotContains(t, whole, "Zippy")
	resumed, err := wren.Resume(f.ctx, chatID, 0)
	require.NoError(t, err)
	for _, e := range resumed.Events {
		require.NotContains(t, e.Text, "Zippy")
	}
	for len(toVisitor) > 0 {
		require.NotContains(t, string(<-toVisitor), "Zippy")
	}
	require.NoError(t, lead.Delete(f.ctx, "/api/review-draws/"+d.ID), "what was sent stays")
	require.Len(t, mine(idris), 1)
}
