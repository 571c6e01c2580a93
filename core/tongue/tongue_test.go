package tongue_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/tongue"
)

// The examples of tags are those of RFC 5646, appendix A, and the local codes of
// the IANA registry; nb within no is its macrolanguage there.
func TestTagsOfOneLanguageMeet(t *testing.T) {
	for _, same := range [][]string{
		{"da", "da-DK", "da_DK", "DA", " da "},
		{"no", "nb", "nb-NO", "no_NO"},
		{"zh", "zh-Hant", "zh-cmn-Hans-CN", "cmn"},
		{"de", "de-AT", "de-CH-1996"},
		{"en", "en-US", "en-GB-oxendict"},
		{"he", "iw"},
	} {
		for _, tag := range same {
			require.Equal(t, same[0], tongue.Base(tag), tag)
		}
	}
	require.NotEqual(t, tongue.Base("da"), tongue.Base("no"))
	require.Empty(t, tongue.Base(""))
	require.Equal(t, "klingonese", tongue.Base("klingonese-XX!"), "what cannot be read is compared as it is")
}
