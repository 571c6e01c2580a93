package channel_test

import (
	"bufio"
	"os"
	"strconv"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/channel"
)

// The table of GSM 03.38 as Perl's Encode::GSM0338 2.10 (of Perl's own distribution) has it,
// which was made from the one that Unicode publishes: a code of one octet counts as one, one
// behind the escape as two, and every other character makes it UCS-2.
func TestTheAlphabetIsThePublishedOne(t *testing.T) {
	t.Parallel()
	file, err := os.Open("testdata/gsm0338.txt")
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, file.Close()) })
	units := map[rune]int{}
	lines := bufio.NewScanner(file)
	for lines.Scan() {
		code, point, _ := strings.Cut(lines.Text(), "\t")
		r, err := strconv.ParseUint(strings.TrimPrefix(point, "U+"), 16, 32)
		require.NoError(t, err)
		units[rune(r)] = len(code) / 2
	}
	require.NoError(t, lines.Err())
	require.Len(t, units, 127+10)
	for r := rune(0); r < 0x3000; r++ {
		got := channel.Measure(string(r))
		if want, ok := units[r]; ok {
			require.Equal(t, channel.Length{Alphabet: channel.Default, Units: want, Parts: 1, Left: 160 - want}, got, "U+%04X", r)
		} else {
			require.Equal(t, channel.Length{Alphabet: channel.UCS2, Units: 1, Parts: 1, Left: 69, Because: string(r)}, got, "U+%04X", r)
		}
	}
}

// The lengths at which a part ends: 140 octets alone, 134 behind a header (3GPP TS 23.040).
func TestParts(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		words string
		parts int
		left  int
	}{
		"nothing":                               {"", 0, 160},
		"one part full":                         {strings.Repeat("a", 160), 1, 0},
		"one more makes two":                    {strings.Repeat("a", 161), 2, 306 - 161},
		"two parts full":                        {strings.Repeat("a", 306), 2, 0},
		"three":                                 {strings.Repeat("a", 307), 3, 459 - 307},
		"an escaped one counts twice":           {strings.Repeat("€", 80), 1, 0},
		"and is not cut in two":                 {strings.Repeat("a", 152) + "€" + strings.Repeat("a", 152), 3, 152}, // 153: 152 and a gap; 153: € and 151; 1
		"UCS-2":                                 {strings.Repeat("ж", 70), 1, 0},
		"UCS-2, two":                            {strings.Repeat("ж", 71), 2, 134 - 71},
		"UCS-2, two full":                       {strings.Repeat("ж", 134), 2, 0},
		"one character is enough for it":        {strings.Repeat("a", 159) + "ж", 3, 201 - 160},
		"an emoji counts twice":                 {strings.Repeat("🐟", 35), 1, 0},
		"and is not cut in two, either":         {strings.Repeat("a", 66) + "🐟" + strings.Repeat("a", 10), 2, 67 - 12},
		"two thousand characters with one":      {strings.Repeat("a", 1999) + "🐟", 30, 30*67 - 2001},
		"line ends":                             {"a\nb", 1, 157},
		"as much as ten parts of plain letters": {strings.Repeat("a", 1530), 10, 0},
	} {
		l := channel.Measure(c.words)
		require.Equal(t, c.parts, l.Parts, name)
		require.Equal(t, c.left, l.Left, name)
	}
	require.Equal(t, "🐟", channel.Measure("Sild 🐟 and ж").Because)
}

// Whatever is measured can be packed so: cut by another hand, part by part, it takes as many.
func TestPartsArePacked(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		words := rapid.StringOfN(rapid.RuneFrom([]rune("aä€{ \nж🐟")), 0, 700, -1).Draw(t, "words")
		l := channel.Measure(words)
		size, alone, part := func(r rune) int { return len(utf16.Encode([]rune{r})) }, 70, 67
		if l.Alphabet == channel.Default {
			size, alone, part = func(r rune) int { return 1 + strings.Count("€{", string(r)) }, 160, 153
		}
		total := 0
		for _, r := range words {
			total += size(r)
		}
		require.Equal(t, total, l.Units)
		if total <= alone {
			require.LessOrEqual(t, l.Parts, 1)
			return
		}
		var parts [][]rune
		room := 0
		for _, r := range words {
			if room < size(r) {
				parts, room = append(parts, nil), part
			}
			parts[len(parts)-1], room = append(parts[len(parts)-1], r), room-size(r)
		}
		require.Equal(t, len(parts), l.Parts)
		require.Equal(t, room, l.Left)
	})
}

func TestPlainWordsFitTwiceAsMany(t *testing.T) {
	t.Parallel()
	typed := "“It’s late…” – said Brenna"
	require.Equal(t, channel.UCS2, channel.Measure(typed).Alphabet)
	require.Equal(t, `"It's late..." - said Brenna`, channel.Plain(typed))
	require.Equal(t, channel.Default, channel.Measure(channel.Plain(typed)).Alphabet)
	require.Equal(t, "Søren’s 🐟"[:5], channel.Plain("Søren's 🐟")[:5], "and nothing else changes")
}

func TestKeywords(t *testing.T) {
	t.Parallel()
	for words, want := range map[string]channel.Keyword{
		"STOP": channel.Stop, " stop. ": channel.Stop, "Stop!": channel.Stop, "\"STOP\"": channel.Stop, "Stop  all": channel.Stop, "ARRÊT": channel.Stop,
		"start": channel.Start, "Unstop": channel.Start, "HELP?": channel.Help, "Info": channel.Help,
		"": "", "Yes": "", "no": "", "Please stop writing to me": "", "Where does bus 12 stop?": "", "stop the booking": "", "Can I cancel?": "", "?": "",
	} {
		require.Equal(t, want, channel.KeywordIn(words), words)
	}
}

func TestLimits(t *testing.T) {
	t.Parallel()
	require.Equal(t, channel.Limits{Parts: 10, Addressed: true}, channel.LimitsOf(channel.Text), "no files")
	require.True(t, channel.LimitsOf(channel.Email).Files)
	require.False(t, channel.LimitsOf(channel.Site).Addressed)
	require.False(t, channel.Known("pigeon"))
}
