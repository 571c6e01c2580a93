package widget

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
)

// Icons are what a launcher may show, as the path of an SVG of 16 by 16; none has
// no path.
var Icons = map[string]string{
	"none":     "",
	"speech":   "M2 3h12v8H7l-3 3v-3H2z",
	"question": "M5 6a3 3 0 1 1 4 2.8c-.7.3-1 .7-1 1.7M8 13v.4",
	"buoy":     "M14 8A6 6 0 1 1 2 8a6 6 0 0 1 12 0M10 8a2 2 0 1 1-4 0 2 2 0 0 1 4 0M4 4l2.5 2.5M12 4 9.5 6.5M4 12l2.5-2.5M12 12 9.5 9.5",
}

// Variable is something that the panel's styles are made of and that an admin may
// change.
type Variable struct {
	Name  string `json:"name"`
	About string `json:"about" doc:"What it is for"`
	Usual string `json:"usual" doc:"What it is when nothing is said"`

	kind variableKind
}

// variableKind is what a variable's value may be, with the words for one that is not:
// nothing of it can leave its place in a style.
type variableKind struct {
	value *regexp.Regexp
	words string
}

var (
	isColour = variableKind{colour, "%q must be a colour, like #241b16."}
	isLength = variableKind{regexp.MustCompile(`^(0|[0-9]{1,3}(\.[0-9]{1,2})?(px|rem|em))$`), "%q must be a length, like 16px."}
	isFont   = variableKind{regexp.MustCompile(`^[A-Za-z0-9 _"',-]{1,200}$`), "%q must be names of typefaces, like Georgia, serif."}
)

// Variables are all that may be changed. Styles of one's own beyond them would break
// with the next version, or hide what a visitor must see.
var Variables = []Variable{
	{"ink", "Words", "#241b16", isColour},
	{"page", "Behind the words", "#ffffff", isColour},
	{"paper", "Behind the form's notes and the composer", "#f5efe6", isColour},
	{"line", "Lines between parts", "#e3d8ca", isColour},
	{"link", "Links and focus", "#2c5474", isColour},
	{"font", "Typeface, from those on the visitor's device", "system-ui", isFont},
	{"size", "Size of the words", "15px", isLength},
	{"radius", "Roundness of buttons and fields", "6px", isLength},
}

func checkVariable(name, value string) string {
	at := slices.IndexFunc(Variables, func(v Variable) bool { return v.Name == name })
	if at < 0 {
		names := make([]string, len(Variables))
		for i, v := range Variables {
			names[i] = v.Name
		}
		return fmt.Sprintf("There is no variable %q. There are: %s.", name, strings.Join(names, ", "))
	}
	if kind := Variables[at].kind; !kind.value.MatchString(value) {
		return fmt.Sprintf(kind.words, name)
	}
	return ""
}

// Contrasts returns a word for each pair of colours of a design that cannot be read
// well, by the 4.5:1 that WCAG 2.2 asks of words (1.4.3), with a colour that would do.
func (d Design) Contrasts() []Poor {
	poor := []Poor{}
	at := func(variable string) string {
		if value := d.Looks.Variables[variable]; colour.MatchString(value) {
			return value
		}
		return Variables[slices.IndexFunc(Variables, func(v Variable) bool { return v.Name == variable })].Usual
	}
	pairs := []struct{ field, what, on string }{{"ink", "ink", "page"}, {"ink", "ink", "paper"}, {"link", "link", "page"}, {"link", "link", "paper"}}
	seen := map[string]bool{}
	for _, p := range pairs {
		if ratio := Contrast(at(p.what), at(p.on)); ratio < readable && !seen[p.field] {
			seen[p.field] = true
			poor = append(poor, Poor{Field: "looks.variables." + p.field, Ratio: ratio, Mend: Readable(at(p.what), at(p.on))})
		}
	}
	if colour.MatchString(d.Colour) {
		// The launcher and the first button stand on the page in this colour.
		if ratio := Contrast(d.Colour, at("page")); ratio < visible {
			poor = append(poor, Poor{Field: "colour", Ratio: ratio, Mend: Visible(d.Colour, at("page"))})
		}
	}
	return poor
}

// Poor is a colour that does not stand out enough.
type Poor struct {
	Field string  `json:"field"`
	Ratio float64 `json:"ratio" doc:"Of contrast, as it is now"`
	Mend  string  `json:"mend" doc:"The nearest colour that would do"`
}

// Style returns the variables as declarations for the panel's styles, in order.
func (l Looks) Style() map[string]string {
	style := map[string]string{}
	for _, name := range slices.Sorted(maps.Keys(l.Variables)) {
		if checkVariable(name, l.Variables[name]) == "" {
			style["--"+name] = l.Variables[name]
		}
	}
	return style
}
