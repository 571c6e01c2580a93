package widget

import (
	"embed"
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"stoop/core/form"
	"stoop/core/tongue"
)

// Shipped are the languages in which there are all the usual texts; the first is spoken
// when nothing else is said.
var Shipped = []string{"en", "de", "da", "fr", "es"}

// MadeUp are languages that only tests and translators ask for, by name.
var MadeUp = []string{"en-XA", "ar-XB"}

//go:embed words/*.json
var files embed.FS

// Words are texts by their keys, in one language. What stands in braces is filled in.
type Words map[string]string

// Texts are texts by language.
type Texts map[string]Words

// launcher holds the usual texts of what a page carries itself, helper those of the
// helper, and usual those of the panel too; the latter are made from the panel's catalogues by `npm run words`.
var launcher, helper, usual = read()

func read() (launcher, helper, usual Texts) {
	all := [3]Texts{}
	for i, name := range []string{"words/launcher.json", "words/panel.json", "words/helper.json"} {
		content, err := files.ReadFile(name)
		if err == nil {
			err = json.Unmarshal(content, &all[i])
		}
		if err != nil {
			panic(fmt.Sprintf("the texts in %s cannot be read: %v", name, err)) // built in: found by the first test
		}
	}
	usual = Texts{}
	for _, language := range Shipped {
		usual[language] = Words{}
		maps.Copy(usual[language], all[1][language])
		maps.Copy(usual[language], all[0][language])
		maps.Copy(usual[language], all[2][language])
	}
	return all[0], all[2], usual
}

// Usual returns the usual texts of a language that is shipped. They are not to be changed.
func Usual(language string) Words { return usual[language] }

// UsualKeys returns the keys of the usual texts that can be replaced, in alphabetical
// order.
func UsualKeys() []string {
	keys := slices.Sorted(maps.Keys(usual["en"]))
	return slices.DeleteFunc(keys, func(key string) bool { return key == "locale" })
}

// What is read of wishes: any page may send more, and longer ones than BCP 47 has use for.
const (
	wishesMost = 12
	wishLength = 35
)

// Speak returns the language in which a widget speaks to somebody: the first of their
// wishes that it offers, or its first.
func (d Design) Speak(wishes ...string) string {
	offered := d.Languages
	if len(offered) == 0 {
		offered = Shipped
	}
	for _, wish := range wishes[:min(len(wishes), wishesMost)] {
		if wish = strings.TrimSpace(wish); len(wish) > wishLength {
			continue
		}
		if slices.Contains(MadeUp, wish) {
			return wish
		}
		base := tongue.Base(wish)
		if slices.Contains(offered, base) {
			return base
		}
	}
	return offered[0]
}

// Main returns the language of a design's own texts.
func (d Design) Main() string { return d.Speak() }

// Own texts of a design, by their keys in Texts.
const (
	TitleKey          = "title"
	GreetingKey       = "greeting"
	ClosedGreetingKey = "closedGreeting"
	SurveyKey         = "surveyQuestion"
	SurveyWordsKey    = "surveyWordsQuestion"
)

// FieldKey returns the key of a field's label or error, and OptionKey that of one of its
// options.
func FieldKey(field, what string) string { return "form." + field + "." + what }

// OptionKey returns the key of one of a field's options.
func OptionKey(field, option string) string { return "form." + field + ".option." + option }

// Own is a text that an admin wrote, to be translated.
type Own struct {
	Key  string `json:"key"`
	Text string `json:"text"`
	Most int    `json:"most" doc:"Characters of a translation"`
}

// OwnTexts returns what is to be translated of a design, in the order in which a visitor
// meets it.
func (d Design) OwnTexts() []Own {
	list := []Own{}
	add := func(key, text string, most int) {
		if text = strings.TrimSpace(text); text != "" {
			list = append(list, Own{key, text, most})
		}
	}
	add(TitleKey, d.Title, titleLimit)
	add(GreetingKey, d.Greeting, GreetingLimit)
	add(ClosedGreetingKey, d.ClosedGreeting, GreetingLimit)
	for _, f := range d.Form {
		add(FieldKey(f.Name, "label"), f.Label, labelLimit)
		for _, o := range f.Options {
			if f.Kind != form.Department {
				add(OptionKey(f.Name, strings.TrimSpace(o)), o, labelLimit)
			}
		}
		add(FieldKey(f.Name, "error"), f.Error, labelLimit)
	}
	if d.Survey.On {
		add(SurveyKey, d.Survey.Question, QuestionLimit)
		add(SurveyWordsKey, d.Survey.WordsQuestion, QuestionLimit)
	}
	for _, a := range d.Automatic {
		add(AutomaticKey(a.ID), a.Text, GreetingLimit)
	}
	for i, l := range d.Looks.Links {
		add(fmt.Sprintf("link.%d", i), l.Label, 40)
	}
	return list
}

const labelLimit = 500

// Missing returns, by language, the keys of the design's own texts that are not
// translated into one that it offers.
func (d Design) Missing() map[string][]string {
	missing := map[string][]string{}
	for _, language := range d.Languages {
		if language == d.Main() {
			continue
		}
		for _, own := range d.OwnTexts() {
			if usualLabel(d.Main(), language, own.Text) == "" && d.Texts[language][own.Key] == "" {
				missing[language] = append(missing[language], own.Key)
			}
		}
	}
	return missing
}

// usualLabel translates a text that is one of the usual ones, such as Email; it needs
// nobody to translate it again. Anything else has no translation.
func usualLabel(from, to, text string) string {
	for _, key := range []string{"start.name", "start.email", "survey.how", "survey.add"} {
		if usual[from][key] == text {
			return usual[to][key]
		}
	}
	return ""
}

// Own text of a design in a language: its translation, or as it was written.
func (d Design) own(language, key, text string) string {
	if language != d.Main() {
		if translated := d.Texts[language][key]; translated != "" {
			return translated
		}
		if translated := usualLabel(d.Main(), language, text); translated != "" {
			return translated
		}
	}
	return text
}

// In returns the design as it speaks a language: its own texts translated, and what it
// says in the place of the usual texts.
func (d Design) In(language string) (spoken Design, words Words) {
	spoken = d
	spoken.Title = d.own(language, TitleKey, d.Title)
	spoken.Greeting = d.own(language, GreetingKey, d.Greeting)
	spoken.ClosedGreeting = d.own(language, ClosedGreetingKey, d.ClosedGreeting)
	spoken.Survey.Question = d.own(language, SurveyKey, d.Survey.Question)
	spoken.Survey.WordsQuestion = d.own(language, SurveyWordsKey, d.Survey.WordsQuestion)
	spoken.Form = slices.Clone(d.Form)
	for i := range spoken.Form {
		f := &spoken.Form[i]
		f.Label = d.own(language, FieldKey(f.Name, "label"), f.Label)
		f.Error = d.own(language, FieldKey(f.Name, "error"), f.Error)
	}
	spoken.Looks.Links = slices.Clone(d.Looks.Links)
	for i := range spoken.Looks.Links {
		l := &spoken.Looks.Links[i]
		l.Label = d.own(language, fmt.Sprintf("link.%d", i), l.Label)
	}
	words = maps.Clone(launcher["en"])
	maps.Copy(words, launcher[language])
	if d.Helper.Flow != "" { // others need not carry them
		maps.Copy(words, helper["en"])
		maps.Copy(words, helper[language])
	}
	for key, text := range d.Texts[language] {
		if _, known := usual["en"][key]; known && key != "locale" && text != "" {
			words[key] = text
		}
	}
	return spoken, words
}

// Say returns one of the words that the helper says where its flow has none: its own, or
// the usual ones.
func (d Design) Say(language, what string) string {
	key := "helper." + what
	if own := d.Texts[language][key]; own != "" {
		return own
	}
	if text := usual[language][key]; text != "" {
		return text
	}
	return usual["en"][key]
}

// Option returns what an option of a field is called in a language.
func (d Design) Option(language, field, option string) string {
	return d.own(language, OptionKey(field, strings.TrimSpace(option)), option)
}

var placeholder = regexp.MustCompile(`\{(\w+)\}`)

// placeholders returns what is filled into a text, in alphabetical order.
func placeholders(text string) []string {
	var names []string
	for _, found := range placeholder.FindAllStringSubmatch(text, -1) {
		names = append(names, found[1])
	}
	slices.Sort(names)
	return slices.Compact(names)
}

// textLimit bounds a text that is not one of the design's own, in code points.
const textLimit = 500

func (d Design) checkTexts() (wrong wrongs) {
	for i, language := range d.Languages {
		if !slices.Contains(Shipped, language) || slices.Contains(d.Languages[:i], language) {
			wrong.at("languages", "Choose each language once, among those that there are.")
			break
		}
	}
	most := map[string]int{}
	for _, own := range d.OwnTexts() {
		most[own.Key] = own.Most
	}
	for _, language := range slices.Sorted(maps.Keys(d.Texts)) {
		if !slices.Contains(Shipped, language) {
			wrong.at("texts", fmt.Sprintf("There are no texts in %q.", language))
			continue
		}
		for _, key := range slices.Sorted(maps.Keys(d.Texts[language])) {
			text := d.Texts[language][key]
			limit := textLimit
			if own, is := most[key]; is {
				limit = own
			}
			at := "texts." + language + "." + key
			if n := utf8.RuneCountInString(text); n > limit {
				wrong.at(at, fmt.Sprintf("This text can have up to %d characters.", limit))
			}
			if usual, is := usual["en"][key]; is && text != "" && !slices.Equal(placeholders(usual), placeholders(text)) {
				wrong.at(at, fmt.Sprintf("Keep %s in this text: it is filled in.", "{"+strings.Join(placeholders(usual), "}, {")+"}"))
			}
		}
	}
	return wrong
}
