package widget_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/widget"
)

// Contrast of WCAG 2.2 (https://www.w3.org/TR/WCAG22/#dfn-contrast-ratio):
// black on white is 21:1 by definition; #767676 is the well-known lightest grey
// that reaches 4.5:1 on white (4.54:1), #777777 does not (4.48:1; both from memory).
func TestLuminanceGivesThePublishedContrasts(t *testing.T) {
	onWhite := func(colour string) float64 { return widget.Contrast(colour, "#ffffff") }
	require.InDelta(t, 21, onWhite("#000000"), 0.001)
	require.InDelta(t, 1, onWhite("#ffffff"), 0.001)
	require.InDelta(t, 4.54, onWhite("#767676"), 0.005)
	require.InDelta(t, 4.48, onWhite("#777777"), 0.005)
	require.Equal(t, widget.Contrast("#123456", "#fedcba"), widget.Contrast("#fedcba", "#123456"))
}

func TestTextOnTheChosenColourIsReadable(t *testing.T) {
	for colour, want := range map[string]string{
		"#9c3f27": "#ffffff", "#000000": "#ffffff", "#ffe39a": "#000000", "#ffffff": "#000000", "#00ff00": "#000000", "#0000ff": "#ffffff",
	} {
		require.Equal(t, want, widget.ReadableOn(colour), colour)
	}
	// Whatever is chosen, the better of black and white reaches 4.5:1.
	for r := 0; r < 256; r += 15 {
		for g := 0; g < 256; g += 15 {
			for b := 0; b < 256; b += 15 {
				colour := "#" + hexOf(r) + hexOf(g) + hexOf(b)
				l := widget.Luminance(colour)
				contrast := 1.05 / (l + 0.05)
				if widget.ReadableOn(colour) == "#000000" {
					contrast = (l + 0.05) / 0.05
				}
				require.GreaterOrEqual(t, contrast, 4.5, colour)
			}
		}
	}
}

func hexOf(n int) string { return string([]byte{"0123456789abcdef"[n>>4], "0123456789abcdef"[n&15]}) }

// What is offered instead of a colour can be read, and is no further from it than needed.
func TestPoorColoursAreMended(t *testing.T) {
	for _, on := range []string{"#ffffff", "#f5efe6", "#000000", "#777777"} {
		for _, colour := range []string{"#ffe39a", "#9c3f27", "#808080", "#ffffff", "#000000", "#2c5474"} {
			mended := widget.Readable(colour, on)
			require.GreaterOrEqual(t, widget.Contrast(mended, on), 4.5, "%s on %s", colour, on)
			if widget.Contrast(colour, on) >= 4.5 {
				require.Equal(t, colour, mended)
			}
		}
	}
	d := widget.New("Site", nil)
	require.Empty(t, d.Contrasts())
	d.Colour = "#ffe39a"
	d.Looks.Variables = map[string]string{"ink": "#999999", "page": "#ffffff"}
	poor := d.Contrasts()
	require.Len(t, poor, 2)
	require.Equal(t, "looks.variables.ink", poor[0].Field)
	require.Equal(t, "colour", poor[1].Field)
	d.Colour, d.Looks.Variables["ink"] = poor[1].Mend, poor[0].Mend
	for _, left := range d.Contrasts() {
		require.NotEqual(t, "colour", left.Field)
	}
}
