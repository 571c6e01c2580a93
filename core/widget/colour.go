package widget

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// What WCAG 2.2 asks: 4.5:1 of words (1.4.3), 3:1 of what must be seen (1.4.11).
const (
	readable = 4.5
	visible  = 3
)

// ReadableOn returns black or white, whichever contrasts more with a colour
// given as #rrggbb. Formula: relative luminance and contrast ratio of WCAG 2.2.
func ReadableOn(colour string) string {
	if Contrast("#ffffff", colour) >= Contrast("#000000", colour) {
		return "#ffffff"
	}
	return "#000000"
}

// Contrast returns the contrast ratio of two colours given as #rrggbb, from 1 to 21
// (https://www.w3.org/TR/WCAG22/#dfn-contrast-ratio).
func Contrast(a, b string) float64 {
	lighter, darker := Luminance(a), Luminance(b)
	if lighter < darker {
		lighter, darker = darker, lighter
	}
	return (lighter + 0.05) / (darker + 0.05)
}

// Readable returns the colour nearest to one, on the way to black or white, in which
// words can be read on another: at least 4.5:1.
func Readable(colour, on string) string { return towards(colour, on, readable) }

// Visible returns the nearest colour that can be told from another: at least 3:1.
func Visible(colour, on string) string { return towards(colour, on, visible) }

// towards mixes a colour with black or white, whichever contrasts more, as little as
// is needed for a ratio.
func towards(colour, on string, ratio float64) string {
	end := ReadableOn(on)
	for share := 0.0; share < 1; share += 0.01 {
		if mixed := mix(colour, end, share); Contrast(mixed, on) >= ratio {
			return mixed
		}
	}
	return end
}

// mix returns a colour with a share of another, in sRGB.
func mix(a, b string, share float64) string {
	x, y := channels(a), channels(b)
	var out [3]int
	for i := range out {
		out[i] = int(math.Round(float64(x[i])*(1-share) + float64(y[i])*share))
	}
	return fmt.Sprintf("#%02x%02x%02x", out[0], out[1], out[2])
}

func channels(colour string) (out [3]int) {
	n, err := strconv.ParseUint(strings.TrimPrefix(colour, "#"), 16, 32)
	if err != nil {
		return out // black, like what is no colour everywhere here
	}
	return [3]int{int(n >> 16 & 0xff), int(n >> 8 & 0xff), int(n & 0xff)}
}

// Luminance returns the relative luminance of a colour, from 0 to 1 (WCAG 2.2).
func Luminance(colour string) float64 {
	linear := func(n int) float64 {
		c := float64(n) / 255
		if c <= 0.04045 {
			return c / 12.92
		}
		return math.Pow((c+0.055)/1.055, 2.4)
	}
	c := channels(colour)
	return 0.2126*linear(c[0]) + 0.7152*linear(c[1]) + 0.0722*linear(c[2])
}
