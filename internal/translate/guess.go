package translate

import (
	"context"
	"slices"
	"strings"

	"github.com/abadojack/whatlanggo"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/tongue"
	"stoop/internal/chatlog"
)

// Guess is in which language somebody seems to write.
type Guess struct {
	Language string `json:"language" doc:"BCP 47; empty: there is too little to guess from"`
	Sure     bool   `json:"sure" doc:"It is likely enough to offer a translation unasked"`
	Browser  string `json:"browser" doc:"The language that the browser asks for"`
}

const (
	// guessedFrom is how many letters a guess wants, by trying short sentences: below, even
	// common languages are taken for each other.
	guessedFrom = 20
	// A translation is offered unasked from sureFrom letters on, with a confidence, by the
	// library's own measure, of sureWith: of sentences as they are said in chats, none were
	// taken for others then. With less it is when the browser asks for that language, too.
	sureFrom = 40
	sureWith = 0.8
	// wordsRead bounds from how many of the first events of a chat it is guessed.
	wordsRead = 60
)

// GuessLanguage tells in which of some languages a text seems to be; of all that are known if
// there are none, and whether that is sure, knowing for which the browser asks. It counts triples of letters, as Cavnar and Trenkle describe
// ("N-Gram-Based Text Categorization", 1994).
func GuessLanguage(text string, among []string, browser string) (language string, sure bool) {
	letters := 0
	for _, r := range text {
		if r > ' ' {
			letters++
		}
	}
	if letters < guessedFrom {
		return "", false
	}
	options := whatlanggo.Options{}
	if len(among) > 0 {
		options.Whitelist = map[whatlanggo.Lang]bool{}
		for _, tag := range among {
			if l := known[tongue.Base(tag)]; l != 0 {
				options.Whitelist[l] = true
			}
		}
	}
	info := whatlanggo.DetectWithOptions(text, options)
	if info.Confidence <= 0 {
		return "", false
	}
	language = tongue.Base(info.Lang.Iso6391())
	if language == browser || letters >= sureFrom && info.Confidence >= sureWith {
		return language, true
	}
	if slices.Contains(among, browser) {
		language = browser // so little is more likely in that
	}
	return language, false
}

// known are the library's languages by their tags.
var known = func() map[string]whatlanggo.Lang {
	list := map[string]whatlanggo.Lang{}
	for l := range whatlanggo.Langs {
		if code := l.Iso6391(); code != "" {
			list[tongue.Base(code)] = l
		}
	}
	return list
}()

// GuessOf guesses in which language the visitor of a chat writes.
func (room *Room) GuessOf(ctx context.Context, o access.Actor, chatID string) (Guess, error) {
	c, err := room.seen(ctx, o, chatID)
	if err != nil {
		return Guess{}, err
	}
	events, err := room.Chats.Events(ctx, chatID, 0, wordsRead)
	if err != nil {
		return Guess{}, err
	}
	var words strings.Builder
	for _, e := range events {
		if e.Kind == chat.Said && e.By.Side == chat.VisitorSide {
			words.WriteString(e.Text + "\n")
		}
	}
	g := Guess{Browser: tongue.Base(c.Language)}
	var among []string
	if room.Translator != nil {
		among = room.Translator.Languages()
	}
	g.Language, g.Sure = GuessLanguage(words.String(), among, g.Browser)
	return g, nil
}

// seen returns a chat that somebody of the team sees.
func (room *Room) seen(ctx context.Context, o access.Actor, chatID string) (chatlog.Chat, error) {
	c, err := room.Chats.Chat(ctx, chatID)
	if err == nil && !o.Sees(c.State) {
		err = chat.ErrNotYours
	}
	return c, err
}
