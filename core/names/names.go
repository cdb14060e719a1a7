// Package names makes names unique and safe for files, the same way everywhere:
// parts, lights, views, passes and files all take theirs from here.
package names

import (
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Fold is the form in which two names are one to file systems that tell apart
// neither upper from lower case nor the ways to write an accent: decomposed
// (Unicode NFD), in full case folding.
func Fold(name string) string {
	return norm.NFD.String(cases.Fold().String(norm.NFD.String(name)))
}

// Style says how numbered names are written.
type Style struct {
	Join string // between a name and its number
	Most int    // bytes a name may have, number included; 0: any
}

// Unique makes names differ even when folded. The first of a name keeps it, cut
// to the style's length; those after it get the next number that makes a name
// nobody has, from 2 on. The result has the order of the names given.
func (s Style) Unique(all []string) []string {
	out := make([]string, len(all))
	taken := make(map[string]bool, len(all))
	var again []int
	for i, n := range all {
		out[i] = s.cut(n, 0)
		if f := Fold(out[i]); taken[f] {
			again = append(again, i)
		} else {
			taken[f] = true
		}
	}
	next := map[string]int{} // so that ten thousand of a name are not tried from 2 each
	for _, i := range again {
		f := Fold(out[i])
		for n := max(next[f], 2); ; n++ {
			number := s.Join + strconv.Itoa(n)
			name := s.cut(all[i], len(number)) + number
			if g := Fold(name); !taken[g] {
				out[i], taken[g], next[f] = name, true, n+1
				break
			}
		}
	}
	return out
}

func (s Style) cut(name string, room int) string {
	if s.Most == 0 {
		return name
	}
	return Cut(name, s.Most-room)
}

// Cut shortens a name to at most so many bytes without cutting a character, or
// a letter from its accents.
func Cut(name string, most int) string {
	if len(name) <= most {
		return name
	}
	cut := 0
	for at, r := range name {
		if at > most {
			break
		}
		if !unicode.Is(unicode.M, r) && r != zeroWidthJoiner {
			cut = at
		}
	}
	if cut == 0 { // one letter under a heap of accents
		for cut = most; cut > 0 && !utf8.RuneStart(name[cut]); cut-- {
		}
	}
	return strings.TrimRightFunc(name[:cut], unicode.IsSpace)
}

const zeroWidthJoiner = '\u200d'

const zeroWidthNonJoiner = '\u200c'

// joins reports whether a character that is not seen shapes those beside it, as some
// scripts need.
func joins(r rune) bool { return r == zeroWidthJoiner || r == zeroWidthNonJoiner }

// blank reports whether nothing is seen of a character by itself.
func blank(r rune) bool {
	switch r {
	case '\u115f', '\u1160', '\u2800', '\u3164', '\uffa0': // fillers, which count as letters or signs
		return true
	}
	return unicode.IsSpace(r) || joins(r) || unicode.Is(unicode.M, r)
}

// Text makes valid text of a name from outside: whole characters, no control characters,
// none that are not seen or turn the direction of others, no space at its ends, composed
// (Unicode NFC). A name of which nothing is seen is empty.
func Text(name string) string {
	name = strings.ToValidUTF8(name, "\ufffd")
	seen := false
	name = strings.Map(func(r rune) rune {
		switch {
		case unicode.IsControl(r):
			return ' '
		case unicode.Is(unicode.Cf, r) && !joins(r):
			return -1
		}
		seen = seen || !blank(r)
		return r
	}, name)
	if !seen {
		return ""
	}
	return strings.TrimSpace(norm.NFC.String(name))
}

// Lines is Text for what has several lines: each is cleaned for itself, and those that are
// empty at either end are left out.
func Lines(text string) string {
	lines := strings.Split(strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(text), "\n")
	for i := range lines {
		lines[i] = Text(lines[i])
	}
	return strings.Trim(strings.Join(lines, "\n"), "\n")
}

// Word turns a name into one that file systems and layer names take: letters
// and digits of any script, with single underscores for what lies between
// them, at most so many bytes, never empty.
func Word(name string, most int) string {
	var b strings.Builder
	gap := false
	for _, r := range Text(name) {
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.Is(unicode.M, r) && b.Len() > 0 && !gap:
			if gap && b.Len() > 0 {
				b.WriteByte('_')
			}
			b.WriteRune(r)
			gap = false
		default:
			gap = true
		}
	}
	if b.Len() == 0 {
		return "unnamed"
	}
	return strings.TrimRight(Cut(b.String(), most), "_")
}

// devices are names that some systems keep for themselves, whatever the extension.
var devices = map[string]bool{"con": true, "prn": true, "aux": true, "nul": true}

func init() {
	for _, d := range "123456789" {
		devices["com"+string(d)], devices["lpt"+string(d)] = true, true
	}
}

// mostSegment is how many bytes file systems allow for one name in a path.
const mostSegment = 255

// Segment makes one name of a path that every file system takes: without the
// characters that some forbid, without spaces, dots at its ends, or a name that
// some system keeps for itself. It does not shorten: TooLong tells.
func Segment(name string) string {
	name = strings.Map(func(r rune) rune {
		if r == unicode.ReplacementChar || unicode.IsControl(r) || unicode.IsSpace(r) || strings.ContainsRune(`\/:*?"<>|`, r) {
			return '_'
		}
		return r
	}, norm.NFC.String(name))
	name = strings.Trim(name, ".")
	if name == "" {
		return "_"
	}
	if stem, _, _ := strings.Cut(name, "."); devices[Fold(stem)] {
		return "_" + name
	}
	return name
}

// TooLong tells whether a segment of a path has more bytes than file systems allow.
func TooLong(segment string) bool { return len(segment) > mostSegment }
