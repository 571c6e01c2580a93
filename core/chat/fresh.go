package chat

import (
	"bytes"
	"encoding/json"
	"strconv"
	"time"
)

// Words are the last ones of a chat. As JSON each is a list in the order of its
// fields, with times in microseconds of Unix: a chat's row carries them along
// with every message, and encoding them by reflection took a quarter of its time.
type Words []Word

// MarshalJSON implements json.Marshaler.
func (words Words) MarshalJSON() ([]byte, error) {
	data := make([]byte, 0, 2+64*len(words))
	data = append(data, '[')
	for i, w := range words {
		if i > 0 {
			data = append(data, ',')
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
	return append(data, ']'), nil
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
