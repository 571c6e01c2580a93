package translate

import (
	"context"
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
	// sureFrom is the confidence, by the library's own measure, from which a translation is
	// offered unasked.
	sureFrom = 0.5
	// wordsRead bounds from how many of the first events of a chat it is guessed.
	wordsRead = 60
)

// GuessLanguage tells in which of some languages a text seems to be; of all that are known if
// there are none. It counts triples of letters, as Cavnar and Trenkle describe
// ("N-Gram-Based Text Categorization", 1994).
func GuessLanguage(text string, among []string) (language string, sure bool) {
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
	return tongue.Base(info.Lang.Iso6391()), info.Confidence >= sureFrom
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
	g.Language, g.Sure = GuessLanguage(words.String(), among)
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
