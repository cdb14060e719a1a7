package names

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"
)

func TestUnique(t *testing.T) {
	for _, c := range []struct{ in, want string }{
		{"a b", "a b"},
		{"a a a", "a a-2 a-3"},
		{"a a-2 a", "a a-2 a-3"},
		{"a a a-2", "a a-3 a-2"}, // who has a name keeps it
		{"a-2 a a", "a-2 a a-3"},
		{"Cap cap CAP", "Cap cap-2 CAP-3"},
		{"stra\u00dfe STRASSE", "stra\u00dfe STRASSE-2"},
		{"caf\u00e9 cafe\u0301 CAF\u00c9 cafe", "caf\u00e9 cafe\u0301-2 CAF\u00c9-3 cafe"},
		{"灯 灯 ランプ", "灯 灯-2 ランプ"},
	} {
		if got := (Style{Join: "-"}).Unique(strings.Fields(c.in)); !slices.Equal(got, strings.Fields(c.want)) {
			t.Errorf("%s: got %q, want %s", c.in, got, c.want)
		}
	}
}

func TestUniqueNamesStayShort(t *testing.T) {
	s := Style{Join: " ", Most: 12}
	long := strings.Repeat("é", 20)
	got := s.Unique([]string{long, long + "x", long, "abcdefghijkl", "abcdefghijklmn"})
	seen := map[string]bool{}
	for _, n := range got {
		if len(n) > 12 || !utf8.ValidString(n) || seen[Fold(n)] {
			t.Errorf("%q of %q", n, got)
		}
		seen[Fold(n)] = true
	}
}

// Ten thousand parts of one name must not take ten thousand tries each.
func TestManyOfAName(t *testing.T) {
	all := make([]string, 10000)
	for i := range all {
		all[i] = "Bolt"
	}
	got := Style{Join: " #"}.Unique(all)
	if got[0] != "Bolt" || got[1] != "Bolt #2" || got[9999] != "Bolt #10000" {
		t.Errorf("%q %q %q", got[0], got[1], got[9999])
	}
}

func TestCut(t *testing.T) {
	for _, c := range []struct {
		in   string
		most int
		want string
	}{
		{"lantern", 20, "lantern"}, {"lantern", 4, "lant"}, {"lan ern", 4, "lan"}, {"größe", 3, "gr"}, {"größe", 4, "grö"},
		{"caf\u0065\u0301s", 5, "caf"}, {"caf\u0065\u0301s", 6, "cafe\u0301"},
	} {
		if got := Cut(c.in, c.most); got != c.want {
			t.Errorf("%q to %d: %q, want %q", c.in, c.most, got, c.want)
		}
	}
}

func TestWordAndSegment(t *testing.T) {
	for in, want := range map[string]string{
		"Brass, satin": "Brass_satin", "  ": "unnamed", "../x": "x", "ünï": "ünï", "u\u0308ni": "\u00fcni", "A1-b": "A1_b",
		"灯 (大)": "灯_大", "\xff\xfe": "unnamed", "A!": "A", "A?": "A",
	} {
		if got := Word(in, 80); got != want {
			t.Errorf("word of %q: %q, want %q", in, got, want)
		}
	}
	if got := Word(strings.Repeat("é ", 100), 80); len(got) > 80 || !utf8.ValidString(got) {
		t.Errorf("long: %q", got)
	}
	for in, want := range map[string]string{
		"a b": "a_b", "a/b": "a_b", "..": "_", ".hidden.": "hidden", "CON": "_CON", "aux.png": "_aux.png", "console": "console",
		`x:y*"`: "x_y__", "": "_", "Größe": "Größe",
	} {
		if got := Segment(in); got != want {
			t.Errorf("segment of %q: %q, want %q", in, got, want)
		}
	}
}

func FuzzNames(f *testing.F) {
	f.Add("Cap", "cap", 3)
	f.Add("\u0301\u0301\u0301", "\xff", 1)
	f.Fuzz(func(t *testing.T, a, b string, most int) {
		if most < 8 || most > 300 {
			most = 8 + (most&255+255)&255
		}
		got := Style{Join: " ", Most: most}.Unique([]string{Text(a), Text(b), Text(a), Text(b)})
		seen := map[string]bool{}
		for _, n := range got {
			if len(n) > most || !utf8.ValidString(n) {
				t.Fatalf("%q is too long or torn", n)
			}
			if seen[Fold(n)] {
				t.Fatalf("%q twice", got)
			}
			seen[Fold(n)] = true
		}
		if w := Word(a, most); w == "" || len(w) > most || !utf8.ValidString(w) || strings.ContainsAny(w, "/\\. ") {
			t.Fatalf("word %q", w)
		}
		if s := Segment(a); s == "" || s == "." || s == ".." || strings.ContainsAny(s, "/\\\x00") {
			t.Fatalf("segment %q", s)
		}
	})
}

func ExampleStyle_Unique() {
	fmt.Println(Style{Join: " "}.Unique([]string{"Key", "Rim", "key"}))
	// Output: [Key Rim key 2]
}

// Names lose what is not seen or turns the direction of what follows; one of which nothing
// is seen is none. What joins letters of some scripts stays.
func TestNamesOfWhatIsNotSeen(t *testing.T) {
	for name, want := range map[string]string{
		"\u200b\u200d\u2060": "", "\u3164\u2800": "", "\u0301": "", "Key\u202egnp.exe": "Keygnp.exe", "\ufeffBase": "Base", "a\u00adb": "ab",
		"\u2067Lamp\u2069": "Lamp", "می\u200cخواهم": "می\u200cخواهم", "👩\u200d🎨": "👩\u200d🎨", " Fuß ": "Fuß",
	} {
		if got := Text(name); got != want {
			t.Errorf("%q becomes %q, want %q", name, got, want)
		}
	}
}

// Lines stay lines, whoever's ends of lines they have; what is not seen goes from each.
func TestLines(t *testing.T) {
	for in, want := range map[string]string{
		"one\r\ntwo\rthree": "one\ntwo\nthree", "\n\n a \n\n b\u202e \n": "a\n\nb", " \u200b\n\t": "", "one\x00two": "one two",
	} {
		if got := Lines(in); got != want {
			t.Errorf("%q is %q, not %q", in, got, want)
		}
	}
}
