package settings

import (
	"stoop/internal/files"
)

// FileLimits are what is let in, for saying so before an upload.
type FileLimits struct {
	MaxBytes int64    `json:"maxBytes"`
	Kinds    []string `json:"kinds"`
}

// FileLimits returns what is let in, as browsers are told.
func (s *Settings) FileLimits() FileLimits {
	return FileLimits{MaxBytes: int64(s.Desk.MaxMegabytes) << 20, Kinds: append([]string{}, s.Desk.FileKinds...)}
}

// FileRules returns what is let in.
func (s *Settings) FileRules() files.Rules {
	rules := files.Rules{MaxBytes: int64(s.Desk.MaxMegabytes) << 20}
	for _, k := range s.Desk.FileKinds {
		rules.Kinds = append(rules.Kinds, files.Kind(k))
	}
	return rules
}
