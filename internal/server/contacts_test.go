package server_test

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/contact"
	"stoop/internal/demo"
	"stoop/internal/people"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
	"stoop/internal/view"
)

// contact adds a contact.
func (f fixture) contact(o *talker.Operator, name, email string) view.ContactView {
	f.t.Helper()
	var c view.ContactView
	require.NoError(f.t, o.Post(f.ctx, "/api/contacts", view.ContactView{Name: name, Email: email, Fields: map[string]string{}}, &c))
	return c
}

func (f fixture) contactPage(o *talker.Operator, id string) (p people.ContactPage) {
	f.t.Helper()
	require.NoError(f.t, o.Get(f.ctx, "/api/contacts/"+id, &p))
	return p
}

func TestContactsAreFoundAndChanged(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris := f.operator(0, newInbox())
	var all, found people.ContactList
	require.NoError(t, idris.Get(f.ctx, "/api/contacts", &all))
	require.EqualValues(t, len(all.Contacts), all.Total)
	for i := 1; i < len(all.Contacts); i++ {
		require.LessOrEqual(t, all.Contacts[i-1].Name, all.Contacts[i].Name)
	}
	require.NoError(t, idris.Get(f.ctx, "/api/contacts?words=TOLLIVER+example.org", &found))
	require.Len(t, found.Contacts, 1)
	require.NoError(t, idris.Get(f.ctx, "/api/contacts?words=100%25", &found))
	require.Empty(t, found.Contacts, "a per cent sign is one")

	requireProblem(t, idris.Post(f.ctx, "/api/contacts", view.ContactView{Fields: map[string]string{}}, nil), "bad-fields")
	requireProblem(t, idris.Post(f.ctx, "/api/contacts", view.ContactView{Name: "X", Email: "MIRREN.Tolliver@example.org", Fields: map[string]string{}}, nil), "bad-fields")
	c := f.contact(idris, "Nell Carraway", "nell@example.org")
	first := c
	first.Phone = "01632 960 100"
	require.NoError(t, idris.Put(f.ctx, "/api/contacts/"+c.ID, first))
	first.Phone = "01632 960 200"
	p := requireProblem(t, idris.Put(f.ctx, "/api/contacts/"+c.ID, first), "contact-changed")
	require.Equal(t, "01632 960 100", p.Contact.Phone)
	requireProblem(t, idris.Get(f.ctx, "/api/contacts/"+uuid.NewString(), nil), "not-found")

	// Pages of a long list follow each other without gaps or doubles.
	for i := range 130 {
		f.contact(idris, fmt.Sprintf("Crowd %03d", i/2), fmt.Sprintf("crowd%d@example.org", i))
	}
	seen, after := map[string]bool{}, ""
	for {
		var page people.ContactList
		require.NoError(t, idris.Get(f.ctx, "/api/contacts?words=crowd"+after, &page))
		require.EqualValues(t, 130, page.Total)
		for _, c := range page.Contacts {
			require.False(t, seen[c.ID])
			seen[c.ID] = true
		}
		if page.NextID == "" {
			break
		}
		after = "&afterId=" + page.NextID + "&afterName=" + "Crowd%20" + page.NextName[6:]
	}
	require.Len(t, seen, 130)
}

// An email that somebody gave proves nothing: it is perhaps the same person, and joined
// by hand. What was joined can be taken apart.
func TestWhoIsPerhapsTheSame(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris := f.operator(0, newInbox())
	c := f.contact(idris, "Nell Carraway", "nell@example.org")
	var browsers []string
	for range 2 {
		v := f.visitor(newInbox())
		_, err := v.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Hello", Name: "Nell", Email: "Nell@Example.org"})
		require.NoError(t, err)
		browsers = append(browsers, visitorOf(t, v.Token))
	}
	page := f.contactPage(idris, c.ID)
	require.Empty(t, page.Browsers)
	require.Empty(t, page.Chats)
	require.Len(t, page.Perhaps, 2)
	for _, id := range browsers {
		require.NoError(t, idris.Put(f.ctx, "/api/contacts/"+c.ID+"/browsers/"+id, nil))
	}
	requireProblem(t, idris.Put(f.ctx, "/api/contacts/"+c.ID+"/browsers/"+browsers[0], nil), "changed")
	page = f.contactPage(idris, c.ID)
	require.Len(t, page.Browsers, 2)
	require.Len(t, page.Chats, 2)
	require.Empty(t, page.Perhaps)

	requireProblem(t, idris.Post(f.ctx, "/api/contacts/"+c.ID+"/split", people.SplitOrder{Browsers: browsers}, nil), "nothing-left")
	var other view.ContactView
	require.NoError(t, idris.Post(f.ctx, "/api/contacts/"+c.ID+"/split", people.SplitOrder{Browsers: browsers[:1]}, &other))
	require.Equal(t, "Nell", other.Name)
	require.Empty(t, other.Email, "the email stays with the one who had it")
	requireProblem(t, idris.Post(f.ctx, "/api/contacts/"+c.ID+"/split", people.SplitOrder{Browsers: browsers[:1]}, nil), "changed")
	require.Len(t, f.contactPage(idris, c.ID).Browsers, 1)
	require.Len(t, f.contactPage(idris, other.ID).Chats, 1)
}

// Words of chats are for those who may read them; that there was a chat is for all.
func TestWordsOfAContactsChats(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, tove, maren := f.operator(0, newInbox()), f.operator(1, newInbox()), f.operator(3, newInbox())
	v := f.visitor(newInbox())
	chatID := f.ask(v, "A secret question")
	f.take(idris, chatID)
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/end", nil, nil))
	c := f.contact(idris, "Wren", "")
	require.NoError(t, idris.Put(f.ctx, "/api/contacts/"+c.ID+"/browsers/"+visitorOf(t, v.Token), nil))
	for o, readable := range map[*talker.Operator]bool{idris: true, maren: true, tove: false} {
		chats := f.contactPage(o, c.ID).Chats
		require.Len(t, chats, 1)
		require.Equal(t, readable, chats[0].Readable)
		require.Equal(t, readable, chats[0].Words != "")
		require.Equal(t, demo.Logins[0].Name, chats[0].OwnerName)
	}
}

// Two contacts become one while a browser joins: nobody is lost and nobody stands twice.
func TestMergingWhileOthersJoin(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, maren := f.operator(0, newInbox()), f.operator(3, newInbox())
	a, b := f.contact(idris, "Nell Carraway", "nell@example.org"), f.contact(idris, "N. Carraway", "nell.carraway@example.com")
	require.NoError(t, idris.Post(f.ctx, "/api/contacts/"+b.ID+"/notes", map[string]string{"text": "Prefers the early boat"}, nil))
	var browsers []string
	for range 12 {
		v := f.visitor(newInbox())
		browsers = append(browsers, visitorOf(t, v.Token))
	}
	for _, id := range browsers[:6] {
		require.NoError(t, idris.Put(f.ctx, "/api/contacts/"+b.ID+"/browsers/"+id, nil))
	}
	merged := a
	merged.Phone = "01632 960 100"
	requireProblem(t, idris.Post(f.ctx, "/api/contacts/"+a.ID+"/merge", people.MergeOrder{OtherID: a.ID, Merged: merged}, nil), "same-contact")
	var all sync.WaitGroup
	results := make(chan error, 20)
	for _, o := range []*talker.Operator{idris, maren} {
		all.Go(func() {
			results <- o.Post(f.ctx, "/api/contacts/"+a.ID+"/merge", people.MergeOrder{OtherID: b.ID, OtherVersion: b.Version, Merged: merged}, nil)
		})
	}
	joins := make(chan error, 20)
	for _, id := range browsers[6:] {
		all.Go(func() { joins <- idris.Put(f.ctx, "/api/contacts/"+b.ID+"/browsers/"+id, nil) })
	}
	all.Wait()
	close(results)
	close(joins)
	done := 0
	for err := range results {
		if err == nil {
			done++
			continue
		}
		require.Contains(t, []string{"changed", "not-found"}, requireCode(t, err))
	}
	require.Equal(t, 1, done, "one of two who merge at once")
	joined := 6
	for err := range joins {
		if err == nil {
			joined++
		}
	}
	page := f.contactPage(idris, a.ID)
	require.Equal(t, "01632 960 100", page.Contact.Phone)
	require.Len(t, page.Notes, 1)
	requireProblem(t, idris.Get(f.ctx, "/api/contacts/"+b.ID, nil), "not-found")
	// Who joined the second one is the first's now; who came too late is nobody's and can
	// be joined again.
	var nobodys int64
	require.NoError(t, f.Store.DB.Raw("select count(*) from visitors where id in ? and contact_id is null", browsers).Scan(&nobodys).Error)
	require.EqualValues(t, 12, int64(len(page.Browsers))+nobodys)
	require.GreaterOrEqual(t, len(page.Browsers), 6)
	require.LessOrEqual(t, len(page.Browsers), joined)
}

// Who is not here is written to by email; the answer joins the chat.
func TestWritingToAContact(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris := f.operator(0, newInbox())
	c := f.contact(idris, "Nell Carraway", "nell@example.org")
	none := f.contact(idris, "Nobody's Mail", "")
	letter := people.LetterTo{ClientID: uuid.NewString(), Text: "Your jacket was found."}
	requireProblem(t, idris.Post(f.ctx, "/api/contacts/"+none.ID+"/letters", letter, nil), "bad-fields")
	requireProblem(t, idris.Post(f.ctx, "/api/contacts/"+c.ID+"/letters", people.LetterTo{ClientID: "x", Text: " "}, nil), "message-empty")
	var written, again people.Written
	require.NoError(t, idris.Post(f.ctx, "/api/contacts/"+c.ID+"/letters", letter, &written))
	require.NoError(t, idris.Post(f.ctx, "/api/contacts/"+c.ID+"/letters", letter, &again))
	require.Equal(t, written, again, "sent twice is sent once")
	requireProblem(t, idris.Post(f.ctx, "/api/contacts/"+c.ID+"/letters", people.LetterTo{ClientID: uuid.NewString(), Text: "And more"}, nil), "in-a-chat")
	var script struct {
		Chat   view.ChatView    `json:"chat"`
		Events []view.EventView `json:"events"`
	}
	require.NoError(t, idris.Get(f.ctx, "/api/chats/"+written.ChatID, &script))
	require.Equal(t, demo.Logins[0].Name, script.Chat.OwnerName)
	require.Equal(t, "nell@example.org", script.Chat.Email)
	require.Equal(t, demo.Logins[0].Name, script.Events[0].WrittenBy)
	said := 0
	for _, e := range script.Events {
		if e.Kind == "said" {
			said++
		}
	}
	require.Equal(t, 1, said)
	require.Eventually(t, func() bool { // the mail is a job, kept with the words
		var n int64
		require.NoError(t, f.Store.DB.Raw("select count(*) from river_job where kind = 'send_words' and args->>'chatId' = ?", written.ChatID).Scan(&n).Error)
		return n == 1
	}, 20*time.Second, 20*time.Millisecond)
	var me view.OperatorView
	require.NoError(t, idris.Get(f.ctx, "/api/me", &me))
	require.Zero(t, me.Load, "a letter takes no room")
}

// importing is what the console sends to take a file in.
type importing struct {
	File string `json:"file"`
}

func TestContactsComeFromFilesAndGoToFiles(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, maren := f.operator(0, newInbox()), f.operator(3, newInbox())
	require.NoError(t, maren.Post(f.ctx, "/api/contacts", view.ContactView{Name: "Nell Carraway", Email: "nell@example.org", Phone: "01632 960 100", Fields: map[string]string{}}, nil))
	const file = "name,email,company,shoe size\r\nNell Carraway,NELL@example.org,Carraway & Moss,44\r\nOdd Fenwick,odd@example.org,,\r\nBad,not an address,,\r\n"
	requireProblem(t, idris.Post(f.ctx, "/api/contacts/import", importing{file}, nil), "not-allowed")
	requireProblem(t, maren.Post(f.ctx, "/api/contacts/import", importing{"a,b\r\n"}, nil), "bad-fields")

	var before, after people.ContactList
	require.NoError(t, maren.Get(f.ctx, "/api/contacts", &before))
	var plan, again people.ContactImport
	require.NoError(t, maren.Post(f.ctx, "/api/contacts/import", importing{file}, &plan))
	require.Equal(t, []int{1, 1, 0, 1}, []int{plan.Add, plan.Change, plan.Same, plan.Rejected})
	require.Equal(t, []string{"shoe size"}, plan.Unknown)
	require.Equal(t, "Nell Carraway · nell@example.org · 01632 960 100", plan.Lines[0].Before)
	require.NoError(t, maren.Get(f.ctx, "/api/contacts", &after))
	require.Equal(t, before.Total, after.Total, "only looked at")

	require.NoError(t, maren.Post(f.ctx, "/api/contacts/import?apply=true", importing{file}, nil))
	require.NoError(t, maren.Get(f.ctx, "/api/contacts", &after))
	require.Equal(t, before.Total+1, after.Total)
	var found people.ContactList
	require.NoError(t, maren.Get(f.ctx, "/api/contacts?words=carraway+moss", &found))
	require.Len(t, found.Contacts, 1)
	require.Equal(t, "01632 960 100", found.Contacts[0].Phone, "what the file leaves empty stays")

	// What is taken out and in again changes nothing, in both forms.
	for _, name := range []string{"/api/contacts.csv", "/api/contacts.vcf"} {
		refused, _, err := idris.Fetch(f.ctx, name, nil)
		require.NoError(t, err)
		require.Equal(t, 403, refused.StatusCode)
		answer, body, err := maren.Fetch(f.ctx, name, nil)
		require.NoError(t, err)
		require.Contains(t, answer.Header.Get("Content-Type"), "text/")
		require.NoError(t, maren.Post(f.ctx, "/api/contacts/import", importing{string(body)}, &again))
		require.Equal(t, []int{0, 0, int(after.Total), 0}, []int{again.Add, again.Change, again.Same, again.Rejected}, "%s", name)
	}

	// Two take in the same file: it stands once, and the second is told.
	var both sync.WaitGroup
	errs := make([]error, 2)
	for i := range errs {
		both.Go(func() {
			errs[i] = maren.Post(f.ctx, "/api/contacts/import?apply=true", importing{"name,email\r\nTwice,twice@example.org\r\n"}, nil)
		})
	}
	both.Wait()
	require.NoError(t, maren.Get(f.ctx, "/api/contacts?words=twice", &found))
	require.Len(t, found.Contacts, 1)
	for _, err := range errs {
		if err != nil {
			requireProblem(t, err, "contacts-changed")
		}
	}
}

// Who looks after a contact decides where their chats go: leads say it, of who is in
// the team. Own fields hold what they are for; what was there before their kind is left
// in peace.
func TestWhoLooksAfterAContactAndKindsOfFields(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, maren, ansel := f.operator(0, newInbox()), f.operator(3, newInbox()), f.operator(4, newInbox())
	var me view.OperatorView
	require.NoError(t, idris.Get(f.ctx, "/api/me", &me))
	c := f.contact(idris, "Nell Carraway", "nell@example.org")
	c.OwnerID = &me.ID
	p := requireProblem(t, idris.Put(f.ctx, "/api/contacts/"+c.ID, c), "bad-fields")
	require.Equal(t, "ownerId", p.Fields[0].Field)
	require.NoError(t, maren.PutInto(f.ctx, "/api/contacts/"+c.ID, c, &c))
	c.Company = "Moss"
	require.NoError(t, idris.PutInto(f.ctx, "/api/contacts/"+c.ID, c, &c), "who changes something else may leave it")
	require.Equal(t, "Idris Vane", f.contactPage(idris, c.ID).Owner)
	nobody := uuid.NewString()
	c.OwnerID = &nobody
	requireProblem(t, maren.Put(f.ctx, "/api/contacts/"+c.ID, c), "bad-fields")
	c.OwnerID = nil
	require.NoError(t, maren.PutInto(f.ctx, "/api/contacts/"+c.ID, c, &c))
	require.Equal(t, me.ID, *c.OwnerID, "who says nothing of it leaves it")

	desk := func(kind contact.Kind) {
		t.Helper()
		var s settings.DeskSettings
		require.NoError(t, ansel.Get(f.ctx, "/api/setup/desk", &s))
		s.ContactFields = []settings.ContactField{{Name: "since", Label: "Member since", Kind: kind}, {Name: "dogs", Label: "Dogs", Kind: contact.Number}}
		require.NoError(t, ansel.Put(f.ctx, "/api/setup/desk", s))
	}
	desk(contact.Text)
	c.Fields = map[string]string{"since": "the beginning", "dogs": "two"}
	p = requireProblem(t, idris.Put(f.ctx, "/api/contacts/"+c.ID, c), "bad-fields")
	require.Equal(t, "fields.dogs", p.Fields[0].Field)
	c.Fields["dogs"] = "2"
	require.NoError(t, idris.PutInto(f.ctx, "/api/contacts/"+c.ID, c, &c))
	desk(contact.Date)
	c.Phone = "01632 960 100"
	require.NoError(t, idris.PutInto(f.ctx, "/api/contacts/"+c.ID, c, &c))
	c.Fields["since"] = "31 March"
	requireProblem(t, idris.Put(f.ctx, "/api/contacts/"+c.ID, c), "bad-fields")
	c.Fields["since"] = "2026-03-31"
	require.NoError(t, idris.PutInto(f.ctx, "/api/contacts/"+c.ID, c, &c))
}

// Files of a contact's chats stand on their page, for who may read the chat.
func TestFilesOfAContact(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, sunniva := f.operator(0, newInbox()), f.operator(2, newInbox())
	c := f.contact(idris, "Nell Carraway", "nell@example.org")
	wren := f.visitor(newInbox())
	opened, err := wren.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Hello", Name: "Nell", Email: "nell@example.org"})
	require.NoError(t, err)
	f.take(idris, opened.Chat.ID)
	said, err := f.share(idris, opened.Chat.ID, "ramp.txt", []byte("The ramp takes 44 tonnes."))
	require.NoError(t, err)
	id := visitorOf(t, wren.Token)
	require.NoError(t, idris.Put(f.ctx, "/api/contacts/"+c.ID+"/browsers/"+id, nil))
	page := f.contactPage(idris, c.ID)
	require.Len(t, page.Files, 1)
	require.Equal(t, "ramp.txt", page.Files[0].File.Name)
	require.True(t, page.Files[0].ByTeam)
	if page := f.contactPage(sunniva, c.ID); !page.Chats[0].Readable {
		require.Empty(t, page.Files)
	}
	require.NoError(t, idris.Delete(f.ctx, fmt.Sprintf("/api/chats/%s/events/%d", opened.Chat.ID, said.Event.Number)))
	require.Empty(t, f.contactPage(idris, c.ID).Files, "what was withdrawn is not there either")
}
