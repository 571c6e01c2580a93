package chat

import (
	"bytes"
	"encoding/json"
	"strconv"
	"time"
)

// Words are the last ones of a chat. A chat's row carries them along with every
// message, so as JSON they are short: a word is a list of how much its number is
// above that of the word before, 1 if the team said it or else 0, and how many
// microseconds later it was said, if the turn before it is as the word before left it.
// Any other, as the first, is a list in the order of its fields, with times in
// microseconds of Unix.
type Words []Word

// MarshalJSON implements json.Marshaler.
func (words Words) MarshalJSON() ([]byte, error) { return words.appendJSON(nil), nil }

// Encode returns the state as JSON, as json.Marshal does, but without reading
// what the words were encoded to a second time.
func (s State) Encode() (string, error) {
	words := s.Fresh
	s.Fresh = nil
	data, err := json.Marshal(s)
	if err != nil || len(words) == 0 {
		return string(data), err
	}
	whole := make([]byte, 0, len(data)+len(`,"fresh":`)+wordSize*len(words))
	whole = append(whole, data[:len(data)-1]...) // a state has fields without words, too
	whole = append(whole, `,"fresh":`...)
	return string(append(words.appendJSON(whole), '}')), nil
}

// wordSize is about how long a word is as JSON.
const wordSize = 24

func (words Words) appendJSON(data []byte) []byte {
	data = append(data, '[')
	for i, w := range words {
		if i > 0 {
			data = append(data, ',')
		}
		if i > 0 && w.follows(words[i-1]) {
			data = w.appendAfter(data, words[i-1])
			continue
		}
		data = strconv.AppendInt(append(data, '['), w.Number, 10)
		data = append(append(append(data, `,"`...), w.Side...), `",`...)
		data = strconv.AppendInt(data, w.At.UnixMicro(), 10)
		data = append(append(append(data, `,"`...), w.Turn...), `",`...)
		since := int64(0)
		if !w.Since.IsZero() {
			since = w.Since.UnixMicro()
		}
		data = append(strconv.AppendInt(data, since, 10), ',')
		data = append(strconv.AppendInt(data, int64(w.Open), 10), ']')
	}
	return append(data, ']')
}

// next is the turn that a word leaves.
func (w Word) next() (Turn, time.Time, int) {
	turn, since := turnAfter(w.Turn, w.Since, w.Side, w.At)
	return turn, since, openAfter(w.Open, w.Side)
}

// follows reports whether the turn before a word is as the word before left it.
func (w Word) follows(before Word) bool {
	turn, since, open := before.next()
	return w.Turn == turn && w.Since.Equal(since) && w.Open == open
}

func (w Word) appendAfter(data []byte, before Word) []byte {
	data = strconv.AppendInt(append(data, '['), w.Number-before.Number, 10)
	side := `,0,`
	if w.Side == TeamSide {
		side = `,1,`
	}
	data = strconv.AppendInt(append(data, side...), w.At.UnixMicro()-before.At.UnixMicro(), 10)
	return append(data, ']')
}

// UnmarshalJSON implements json.Unmarshaler.
func (words *Words) UnmarshalJSON(data []byte) error {
	var list []json.RawMessage
	if err := json.Unmarshal(data, &list); err != nil {
		return err
	}
	read := make(Words, len(list))
	for i, one := range list {
		var short []int64 // fails for the long forms
		if i == 0 || json.Unmarshal(one, &short) != nil || len(short) != 3 {
			if err := json.Unmarshal(one, &read[i]); err != nil {
				return err
			}
			continue
		}
		w := Word{Number: read[i-1].Number + short[0], Side: VisitorSide, At: read[i-1].At.Add(time.Duration(short[2]) * time.Microsecond)}
		if short[1] == 1 {
			w.Side = TeamSide
		}
		w.Turn, w.Since, w.Open = read[i-1].next()
		read[i] = w
	}
	*words = read
	return nil
}

// UnmarshalJSON implements json.Unmarshaler for one word. It reads the objects of
// earlier versions, too.
func (w *Word) UnmarshalJSON(data []byte) error {
	if !bytes.HasPrefix(data, []byte("[")) {
		type fields Word // without this method; JSON does not mind the case of names
		return json.Unmarshal(data, (*fields)(w))
	}
	var at, since int64
	if err := json.Unmarshal(data, &[]any{&w.Number, &w.Side, &at, &w.Turn, &since, &w.Open}); err != nil {
		return err
	}
	w.At, w.Since = time.UnixMicro(at).UTC(), time.Time{}
	if since != 0 {
		w.Since = time.UnixMicro(since).UTC()
	}
	return nil
}
