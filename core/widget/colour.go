package widget

import (
	"math"
	"strconv"
	"strings"
)

// ReadableOn returns black or white, whichever contrasts more with a colour
// given as #rrggbb. Formula: relative luminance and contrast ratio of WCAG 2.2.
func ReadableOn(colour string) string {
	l := Luminance(colour)
	if (1.05)/(l+0.05) >= (l+0.05)/0.05 {
		return "#ffffff"
	}
	return "#000000"
}

// Luminance returns the relative luminance of a colour, from 0 to 1 (WCAG 2.2).
func Luminance(colour string) float64 {
	n, err := strconv.ParseUint(strings.TrimPrefix(colour, "#"), 16, 32)
	if err != nil {
		return 0
	}
	channel := func(shift uint) float64 {
		c := float64(n>>shift&0xff) / 255
		if c <= 0.04045 {
			return c / 12.92
		}
		return math.Pow((c+0.055)/1.055, 2.4)
	}
	return 0.2126*channel(16) + 0.7152*channel(8) + 0.0722*channel(0)
}
