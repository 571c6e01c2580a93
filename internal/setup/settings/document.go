package settings

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
)

// document is a part of the set-up that is stored as one JSON text under a key.
type document[T any] struct {
	key   string
	first func() T // what holds until an admin says otherwise
}

// read returns the document with the text that it is stored as.
func (d document[T]) read(ctx context.Context, tables Tables) (value T, text string, err error) {
	value = d.first()
	first, err := json.Marshal(value)
	if err != nil {
		return value, "", err
	}
	if text, err = tables.Setting(ctx, d.key, string(first)); err != nil {
		return value, "", err
	}
	// What was stored before there was a setting leaves its default.
	if err := json.Unmarshal([]byte(text), &value); err != nil {
		return value, "", fmt.Errorf("reading the settings %q: %w", d.key, err)
	}
	return value, text, nil
}

// save replaces the document whose text was read before.
func (d document[T]) save(ctx context.Context, tables Tables, before string, value T) error {
	data, err := json.Marshal(value)
	if err != nil {
		return err
	}
	return tables.SaveSetting(ctx, d.key, before, string(data))
}

// NextVersion returns the version that follows one; the first is empty.
func NextVersion(version string) string {
	n, _ := strconv.Atoi(version) // empty is none
	return strconv.Itoa(n + 1)
}
