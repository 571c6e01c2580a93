package channel

import (
	"strings"
	"unicode"
)

// Keyword is a word to the sender of text messages, instead of one to a person.
type Keyword string

// The keywords. Who stops them gets none any more, until they start them again.
const (
	NoKeyword Keyword = ""
	Stop      Keyword = "stop"
	Start     Keyword = "start"
	Help      Keyword = "help"
)

// keywords are words that are a message by themselves. Those in English for stopping are the ones
// that carriers and the industry's principles want to be known (CTIA Messaging Principles and Best
// Practices, 5.1.3; written down from memory); the others are common practice with no source. YES
// and NO are left out: they answer a question that somebody asked.
var keywords = map[string]Keyword{
	"stop": Stop, "stopall": Stop, "stop all": Stop, "unsubscribe": Stop, "cancel": Stop, "end": Stop, "quit": Stop, "optout": Stop, "opt out": Stop, "revoke": Stop,
	"stopp": Stop, "stop alle": Stop, "abmelden": Stop, "afmeld": Stop, "arret": Stop, "arrêt": Stop, "baja": Stop,
	"start": Start, "unstop": Start, "alta": Start,
	"help": Help, "info": Help, "hilfe": Help, "hjælp": Help, "aide": Help, "ayuda": Help,
}

// KeywordIn returns the keyword that a message is, if it is one and nothing else: in any case, and
// with any marks around it.
func KeywordIn(words string) Keyword {
	bare := strings.TrimFunc(strings.ToLower(words), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) })
	return keywords[strings.Join(strings.Fields(bare), " ")]
}
