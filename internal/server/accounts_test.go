package server_test

import (
	"bytes"
	"encoding/base32"
	"encoding/base64"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"log/slog"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/qrcode"
	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/require"

	"stoop/internal/account"
	"stoop/internal/demo"
	"stoop/internal/desk"
	"stoop/internal/server"
	"stoop/internal/setup"
	"stoop/internal/standin/talker"
	"stoop/internal/testpg"
)

// logsIn tries to log somebody of the demo in.
func (f fixture) logsIn(email, password, code string) error {
	o := talker.New(f.URL)
	return o.Post(f.ctx, "/api/session", account.Credentials{Email: email, Password: password, Code: code}, nil)
}

// Somebody is invited, chooses their own password, and is in; the link works once, for
// them, while they are invited.
func TestAnInvitationIntoTheTeam(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel, maren := f.operator(4, newInbox()), f.operator(3, newInbox())
	person := setup.PersonSettings{Name: "Pia", Email: "pia@example.com", Role: "operator", Active: true, Percent: 100, Languages: []string{}, Departments: []setup.PlaceSettings{}}
	require.NoError(t, ansel.PutInto(f.ctx, "/api/setup/people", person, &person))
	require.False(t, person.Joined)
	requireProblem(t, f.logsIn("pia@example.com", "", ""), "bad-login")
	path := "/api/setup/people/" + person.ID + "/invitation"
	requireProblem(t, maren.Post(f.ctx, path, nil, nil), "not-allowed")
	var first, second account.Sent
	require.NoError(t, ansel.Post(f.ctx, path, nil, &first))
	require.NoError(t, ansel.Post(f.ctx, path, nil, &second))
	join := func(link string) string { return "/api/join/" + link[strings.LastIndex(link, "/")+1:] }
	anybody := talker.New(f.URL)
	requireProblem(t, anybody.Get(f.ctx, join(first.Link), nil), "invitation-over")
	var who account.Invitee
	require.NoError(t, anybody.Get(f.ctx, join(second.Link), &who))
	require.Equal(t, account.Invitee{Name: "Pia", Email: "pia@example.com"}, who)
	wrong := requireProblem(t, anybody.Post(f.ctx, join(second.Link), account.Accepted{Name: " ", Password: "short"}, nil), "bad-fields")
	require.Len(t, wrong.Fields, 2)
	good := account.Accepted{Name: "Pia Strand", Password: "a crossing to Sandry"}
	require.NoError(t, anybody.Post(f.ctx, join(second.Link), good, nil))
	require.NoError(t, anybody.Get(f.ctx, "/api/me", nil), "who accepts is logged in")
	requireProblem(t, talker.New(f.URL).Post(f.ctx, join(second.Link), good, nil), "invitation-over")
	requireProblem(t, ansel.Post(f.ctx, path, nil, nil), "joined")
	require.NoError(t, f.logsIn("PIA@example.com", good.Password, ""))

	// An invitation to another address, or of somebody who was shut out, is over.
	other := setup.PersonSettings{Name: "Ove", Email: "ove@example.com", Role: "operator", Active: true, Percent: 100, Languages: []string{}, Departments: []setup.PlaceSettings{}}
	require.NoError(t, ansel.PutInto(f.ctx, "/api/setup/people", other, &other))
	require.NoError(t, ansel.Post(f.ctx, "/api/setup/people/"+other.ID+"/invitation", nil, &first))
	other.Email = "somebody@example.com"
	require.NoError(t, ansel.PutInto(f.ctx, "/api/setup/people", other, &other))
	requireProblem(t, anybody.Get(f.ctx, join(first.Link), nil), "invitation-over")
}

// With a second factor the password alone opens nothing; a code works once, a recovery
// code too, and who lost both is let in by an admin.
func TestTheSecondFactor(t *testing.T) {
	t.Parallel()
	now := time.Now()
	f := start(t, nil)
	idris, ansel := f.operator(0, newInbox()), f.operator(4, newInbox())
	email := demo.Logins[0].Email
	require.Contains(t, fieldsOf(t, idris.Post(f.ctx, "/api/me/factor", map[string]string{"password": "wrong"}, nil))["password"], "not your current")
	var factor account.NewFactor
	require.NoError(t, idris.Post(f.ctx, "/api/me/factor", map[string]string{"password": demo.Password}, &factor))
	require.Equal(t, factor.Address, readCode(t, factor.Picture))
	address, err := url.Parse(factor.Address)
	require.NoError(t, err)
	require.Equal(t, factor.Secret, address.Query().Get("secret"))
	_, err = base32.StdEncoding.WithPadding(base32.NoPadding).DecodeString(factor.Secret)
	require.NoError(t, err)
	require.NoError(t, f.logsIn(email, demo.Password, ""), "it does not count before its first code")
	require.Contains(t, fieldsOf(t, idris.Post(f.ctx, "/api/me/factor/confirm", map[string]string{"code": "000000"}, nil))["code"], "not right")
	code := func(later time.Duration) string {
		code, err := totp.GenerateCode(factor.Secret, now.Add(later))
		require.NoError(t, err)
		return code
	}
	var codes []string
	require.NoError(t, idris.Post(f.ctx, "/api/me/factor/confirm", map[string]string{"code": code(0)}, &codes))
	require.Len(t, codes, 10)
	requireProblem(t, f.logsIn(email, demo.Password, ""), "code-needed")
	requireProblem(t, f.logsIn(email, "wrong", codes[0]), "bad-login")
	requireProblem(t, f.logsIn(email, demo.Password, code(0)), "bad-code")
	require.NoError(t, f.logsIn(email, demo.Password, code(30*time.Second)), "the next one, by a clock that is ahead")
	requireProblem(t, f.logsIn(email, demo.Password, code(30*time.Second)), "bad-code")
	require.NoError(t, f.logsIn(email, demo.Password, strings.ToUpper(codes[3])))
	requireProblem(t, f.logsIn(email, demo.Password, codes[3]), "bad-code")
	var profile account.Profile
	require.NoError(t, idris.Get(f.ctx, "/api/me/profile", &profile))
	require.True(t, profile.Factor)
	require.Equal(t, 9, profile.Codes)

	var people []setup.PersonSettings
	require.NoError(t, ansel.Get(f.ctx, "/api/setup/people", &people))
	for _, p := range people {
		if p.Email == email {
			require.True(t, p.Factor)
			requireProblem(t, idris.Delete(f.ctx, "/api/setup/people/"+p.ID+"/factor"), "not-allowed")
			require.NoError(t, ansel.Delete(f.ctx, "/api/setup/people/"+p.ID+"/factor"))
		}
	}
	requireProblem(t, idris.Get(f.ctx, "/api/me", nil), "login-first")
	require.NoError(t, f.logsIn(email, demo.Password, ""))
}

// readCode reads the QR code of a data address with an independent decoder.
func readCode(t *testing.T, address string) string {
	t.Helper()
	data, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(address, "data:image/png;base64,"))
	require.NoError(t, err)
	picture, err := png.Decode(bytes.NewReader(data))
	require.NoError(t, err)
	bitmap, err := gozxing.NewBinaryBitmapFromImage(picture)
	require.NoError(t, err)
	// It is no photograph: the reader's detector, which looks for a code in one, misses some.
	read, err := qrcode.NewQRCodeReader().Decode(bitmap, map[gozxing.DecodeHintType]any{gozxing.DecodeHintType_PURE_BARCODE: true})
	require.NoError(t, err)
	return read.GetText()
}

// Codes cannot be tried out: after a few wrong ones each costs time.
func TestWrongCodesCostTime(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris := f.operator(0, newInbox())
	var factor account.NewFactor
	require.NoError(t, idris.Post(f.ctx, "/api/me/factor", map[string]string{"password": demo.Password}, &factor))
	for range 5 {
		requireProblem(t, idris.Post(f.ctx, "/api/me/factor/confirm", map[string]string{"code": "000000"}, nil), "bad-fields")
	}
	requireProblem(t, idris.Post(f.ctx, "/api/me/factor/confirm", map[string]string{"code": "000000"}, nil), "too-many-logins")
}

// Somebody sees where they are logged in, and ends one of the sessions or all others.
func TestSessionsAreListedAndEnded(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	here := f.operator(3, newInbox())
	there, elsewhere := f.operator(3, newInbox()), f.operator(3, newInbox())
	idris := f.operator(0, newInbox())
	var list []account.Session
	require.NoError(t, here.Get(f.ctx, "/api/me/sessions", &list))
	require.Len(t, list, 3)
	mine := 0
	for _, s := range list {
		if s.This {
			mine++
		}
	}
	require.Equal(t, 1, mine)
	var theirs []account.Session
	require.NoError(t, there.Get(f.ctx, "/api/me/sessions", &theirs))
	for _, s := range theirs {
		if s.This {
			// Nobody ends a session of somebody else, even if they know its id.
			require.NoError(t, idris.Delete(f.ctx, "/api/me/sessions?id="+s.ID))
			require.NoError(t, there.Get(f.ctx, "/api/me", nil))
			require.NoError(t, here.Delete(f.ctx, "/api/me/sessions?id="+s.ID))
		}
	}
	requireProblem(t, there.Get(f.ctx, "/api/me", nil), "login-first")
	require.NoError(t, elsewhere.Get(f.ctx, "/api/me", nil))
	require.NoError(t, here.Delete(f.ctx, "/api/me/sessions"))
	requireProblem(t, elsewhere.Get(f.ctx, "/api/me", nil), "login-first")
	require.NoError(t, here.Get(f.ctx, "/api/me", nil))
	require.NoError(t, idris.Get(f.ctx, "/api/me", nil))
}

// A photo is drawn anew as a small square, whatever came; visitors see the shown name and
// the photo, colleagues the name.
func TestWhatVisitorsSeeOfSomebody(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, idris := f.operator(3, newInbox()), f.operator(0, newInbox())
	for name, bad := range map[string][]byte{"text": []byte("<svg onload=alert(1)>"), "cut off": drawn(t, 40, 30)[:60], "huge": hugePNG()} {
		require.Contains(t, fieldsOf(t, maren.Put(f.ctx, "/api/me/photo", map[string]any{"picture": bad}))["photo"], "no picture", name)
	}
	var profile account.Profile
	require.NoError(t, maren.PutInto(f.ctx, "/api/me/photo", map[string]any{"picture": drawn(t, 900, 300)}, &profile))
	require.NoError(t, maren.PutInto(f.ctx, "/api/me/profile", account.OwnWords{ShownName: "Captain M", Welcome: "Welcome aboard."}, &profile))
	answer, body, err := talker.New(f.URL).Fetch(f.ctx, profile.Photo, nil)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, answer.StatusCode)
	require.Equal(t, "image/jpeg", answer.Header.Get("Content-Type"))
	config, err := jpeg.DecodeConfig(bytes.NewReader(body))
	require.NoError(t, err)
	require.Equal(t, [2]int{256, 256}, [2]int{config.Width, config.Height})

	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Who is there?")
	f.take(maren, chatID)
	resumed, err := wren.Resume(f.ctx, chatID, 0)
	require.NoError(t, err)
	require.Equal(t, "Captain M", resumed.Chat.OwnerName)
	require.Equal(t, profile.Photo, resumed.Chat.OwnerPhoto)
	for _, e := range resumed.Events {
		require.NotContains(t, e.Name, "Maren")
	}
	var line desk.Desk
	require.NoError(t, idris.Get(f.ctx, "/api/desk", &line))
	names := []string{}
	for _, o := range line.Operators {
		names = append(names, o.Name)
	}
	require.Contains(t, names, "Maren Holt")
	require.NotContains(t, names, "Captain M")
	require.NoError(t, maren.Delete(f.ctx, "/api/me/photo"))
	require.NoError(t, maren.Get(f.ctx, "/api/me/profile", &profile))
	require.Empty(t, profile.Photo)
}

func drawn(t *testing.T, width, height int) []byte {
	t.Helper()
	picture := image.NewRGBA(image.Rect(0, 0, width, height))
	picture.Set(width/2, height/2, color.RGBA{R: 200, A: 255})
	var file bytes.Buffer
	require.NoError(t, png.Encode(&file, picture))
	return file.Bytes()
}

// hugePNG says of itself that it has more pixels than may be decoded.
func hugePNG() []byte {
	header := []byte("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\xff\xff\x00\x00\xff\xff\x08\x06\x00\x00\x00")
	return append(header, 0, 0, 0, 0)
}

// Whoever runs an empty Stoop makes the first account, once, whoever is faster; nobody
// without the address that the server prints.
func TestTheFirstAccount(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	first := account.First{Name: "Runa Vik", Email: "runa@example.com", Password: "seven gulls at noon"}
	requireProblem(t, talker.New(f.URL).Post(f.ctx, "/api/begin/"+strings.Repeat("0", 20), first, nil), "begun")
	path, err := f.Account.BeginPath(f.ctx)
	require.NoError(t, err)
	require.Empty(t, path, "there is a team")

	config := f.Config
	config.DatabaseURL = testpg.New(t)
	empty, err := server.Start(f.ctx, config, slog.New(slog.DiscardHandler), false)
	require.NoError(t, err)
	defer func() { require.NoError(t, empty.Stop()) }()
	path, err = empty.Account.BeginPath(f.ctx)
	require.NoError(t, err)
	requireProblem(t, talker.New(empty.URL).Get(f.ctx, "/api/begin/"+strings.Repeat("0", 20), nil), "begun")
	require.Len(t, requireProblem(t, talker.New(empty.URL).Post(f.ctx, "/api"+path, account.First{Name: "", Email: "runa", Password: "short"}, nil), "bad-fields").Fields, 3)
	done := make(chan error, 4)
	for i := range cap(done) {
		go func() {
			mine := first
			mine.Email = fmt.Sprintf("runa%d@example.com", i)
			done <- talker.New(empty.URL).Post(f.ctx, "/api"+path, mine, nil)
		}()
	}
	made := 0
	for range cap(done) {
		if err := <-done; err == nil {
			made++
		} else {
			requireProblem(t, err, "begun")
		}
	}
	require.Equal(t, 1, made)
	team, err := empty.Settings.Tables.Operators(f.ctx)
	require.NoError(t, err)
	require.Len(t, team, 1)
}
