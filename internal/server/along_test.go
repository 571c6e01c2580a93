package server_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/internal/along"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
)

// What a visitor sees goes to who asked and was let in, while they are, and to nobody else; and
// nobody else moves anything on the visitor's page.
func TestWhoLooksAlong(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	toIdris, toTove, toWren := newInbox(), newInbox(), newInbox()
	idris, tove := f.operator(0, toIdris), f.operator(1, toTove)
	wren, stranger := f.visitor(toWren), f.visitor(newInbox())
	chatID := f.ask(wren, "It does not work")
	asks := func(o *talker.Operator) error { return o.Post(f.ctx, "/api/chats/"+chatID+"/along", nil, nil) }
	requireProblem(t, asks(idris), "not-taken")
	f.take(idris, chatID)
	requireProblem(t, asks(tove), "not-yours")
	require.NoError(t, asks(idris))
	require.NoError(t, asks(idris), "asking again changes nothing")
	number := f.chatState(chatID).Along.Number
	answers := func(v *talker.Visitor, how string, scroll bool) error {
		return v.Call(f.ctx, "answer-along", along.AnswerCall{ChatID: chatID, Number: number, How: how, Scroll: scroll}, nil)
	}
	sends := func(v *talker.Visitor, data string) error {
		return v.Call(f.ctx, "along", along.PartCall{ChatID: chatID, Number: number, Part: 1, Of: "page", Data: data}, nil)
	}
	wishes := func(o *talker.Operator, what string) error {
		return o.Call(f.ctx, "along", along.WishCall{ChatID: chatID, Number: number, What: what, Y: 10}, nil)
	}
	requireProblem(t, sends(wren, "too-soon"), "no-along")
	requireProblem(t, wishes(idris, "fresh"), "no-along")
	requireProblem(t, answers(stranger, "yes", true), "not-yours")
	require.NoError(t, answers(wren, "yes", false))
	require.NoError(t, sends(wren, "the-page"))
	toIdris.until(t, func(m string) bool { return strings.Contains(m, "the-page") })
	requireProblem(t, sends(stranger, "forged"), "not-yours")
	requireProblem(t, sends(wren, strings.Repeat("a", 201<<10)), "large-part")
	flood := error(nil)
	for range 200 {
		if flood = sends(wren, strings.Repeat("a", 200<<10)); flood != nil {
			break
		}
	}
	requireProblem(t, flood, "many-parts")
	requireProblem(t, wishes(tove, "fresh"), "not-yours")
	requireProblem(t, wishes(idris, "scroll"), "not-that")
	requireProblem(t, wishes(idris, "run"), "not-that")
	require.NoError(t, wishes(idris, "point"))
	toWren.until(t, func(m string) bool { return strings.Contains(m, `"what":"point"`) })

	// Whoever is in the chat no longer sees nothing more.
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/put-back", map[string]string{}, nil))
	requireProblem(t, sends(wren, "after-the-end"), "no-along")
	requireProblem(t, wishes(idris, "point"), "no-along")
	for _, box := range []inbox{toTove} {
		for range len(box) {
			require.NotContains(t, string(<-box), "the-page")
		}
	}
	var kept int64
	require.NoError(t, f.Store.DB.Raw("select count(*) from along_parts").Scan(&kept).Error)
	require.Zero(t, kept, "nothing is kept that nobody wants kept")
}

// What is kept, because an admin wants that and the visitor was told, goes with the chat.
func TestWhatIsSeenIsKeptIfThatIsSet(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	on := newInbox()
	idris, tove, admin := f.operator(0, newInbox()), f.operator(1, newInbox()), f.operator(4, newInbox())
	var desk settings.DeskSettings
	require.NoError(t, admin.Get(f.ctx, "/api/setup/desk", &desk))
	desk.KeepAlong = true
	require.NoError(t, admin.Put(f.ctx, "/api/setup/desk", desk))
	f.Settings.Forget()
	wren := f.visitor(on)
	chatID := f.ask(wren, "It does not work")
	f.take(idris, chatID)
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/along", nil, nil))
	on.until(t, func(m string) bool { return strings.Contains(m, `"kept":true`) })
	number := f.chatState(chatID).Along.Number
	require.NoError(t, wren.Call(f.ctx, "answer-along", along.AnswerCall{ChatID: chatID, Number: number, How: "yes"}, nil))
	for i, data := range []string{"one", "two", "three"} {
		require.NoError(t, wren.Call(f.ctx, "along", along.PartCall{ChatID: chatID, Number: number, Part: i + 1, Of: "page", Data: data, More: i == 1}, nil))
	}
	require.NoError(t, wren.Call(f.ctx, "end", talk.ChatCall{ChatID: chatID}, nil))
	read := func(o *talker.Operator, after string) (data []string, err error) {
		var parts []along.KeptPart
		err = o.Get(f.ctx, fmt.Sprintf("/api/chats/%s/along/%d?after=%s", chatID, number, after), &parts)
		for _, p := range parts {
			data = append(data, p.Data)
		}
		return data, err
	}
	all, err := read(idris, "0")
	require.NoError(t, err)
	require.Equal(t, []string{"one", "two+more", "three"}, all)
	rest, err := read(idris, "2")
	require.NoError(t, err)
	require.Equal(t, []string{"three"}, rest)
	_, err = read(tove, "0")
	requireProblem(t, err, "not-yours")

	require.NoError(t, f.Store.DB.Exec("delete from chats where id = ?", chatID).Error)
	var kept int64
	require.NoError(t, f.Store.DB.Raw("select count(*) from along_parts").Scan(&kept).Error)
	require.Zero(t, kept, "it goes with the chat")
}
