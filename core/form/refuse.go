package form

import "strings"

// BadFieldsError tells what is wrong with something typed, field by field.
type BadFieldsError struct {
	Wrong []Wrong
}

func (e *BadFieldsError) Error() string {
	words := make([]string, len(e.Wrong))
	for i, w := range e.Wrong {
		words[i] = w.Field + ": " + w.Words
	}
	return strings.Join(words, " ")
}

// Refuse returns a *BadFieldsError if anything is wrong.
func Refuse(wrong []Wrong) error {
	if len(wrong) == 0 {
		return nil
	}
	return &BadFieldsError{Wrong: wrong}
}
