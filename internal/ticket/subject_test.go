package ticket

import (
	"encoding/json"
	"strings"
	"testing"

	"amberproof/core/setup"
	"amberproof/core/shelf"
	"amberproof/core/trace"
)

// A set-up is in the resolved ticket by value and shapes the light; one that changes
// nothing leaves no trace, so that films of before are still those of their tickets.
func TestSetupsAreResolvedByValue(t *testing.T) {
	s, ref := lantern(), SceneRef{"lantern.glb", "a"}
	bare, err := Of(t.Context(), ref, s, setup.Setup{})
	if err != nil {
		t.Fatal(err)
	}
	plain, faults := Resolve(New(), bare, ViewsOf(s))
	if b, _ := json.Marshal(plain); len(faults) > 0 || strings.Contains(string(b), "setup") {
		t.Fatalf("without a set-up: %s, %v", b, faults)
	}
	key := s.Keys()[0]
	u := setup.Setup{Parts: []setup.Change{{Part: key, Scale: 1, Out: true}}}
	of, err := Of(t.Context(), ref, s, u)
	if err != nil {
		t.Fatal(err)
	}
	r, faults := Resolve(New(), of, ViewsOf(s))
	if len(faults) > 0 || r.FilmKey() == plain.FilmKey() || r.Fingerprint() == plain.Fingerprint() {
		t.Fatalf("a part left out is the same film: %v", faults)
	}
	if o := r.Options(r.Staged(of.Scene), nil); o.Wears[0] != trace.LeftOutOfPicture || o.Wears[1] == trace.LeftOutOfPicture {
		t.Errorf("parts wear %v", o.Wears)
	}
	b, err := json.Marshal(r)
	if err != nil {
		t.Fatal(err)
	}
	back, err := RestoreResolved(b)
	if err != nil || back.Fingerprint() != r.Fingerprint() {
		t.Fatalf("read back: %v", err)
	}
	if v, err := back.Subject(t.Context(), s); err != nil || !v.Parts[0].Out {
		t.Errorf("read back, the part is there: %v", err)
	}
	if d := Differences(&plain, &r); len(d) != 1 || !strings.Contains(d[0], "left out, was as the file has it") {
		t.Errorf("told as %q", d)
	}
	if d := Differences(&r, &plain); len(d) != 1 || !strings.Contains(d[0], "as the file has it, was left out") {
		t.Errorf("told as %q", d)
	}
}

func TestCheckSetup(t *testing.T) {
	for text, want := range map[string]string{
		`{"parts":[{"part":"a","scale":0}]}`:                        "Scale must be between",
		`{"parts":[{"part":"a","shift":{"x":2000000}}]}`:            "Move x must be between",
		`{"parts":[{"part":"a","scale":2},{"part":"a","scale":3}]}`: "listed twice",
		`{"parts":[{"part":"a\u0007","scale":2}]}`:                  "plain text",
		`{"parts":[{"part":"a","turn":{"y":-360},"scale":1000}]}`:   "",
		`{"finishes":[{"name":"a","index":9}]}`:                     "Index must be between",
		`{"finishes":[{"name":"a","base":{"r":2,"g":0,"b":0}}]}`:    "Red must be between",
		`{"finishes":[{"name":"a","metal":0}]}`:                     "",
	} {
		u, err := setup.Decode([]byte(text))
		if err != nil {
			t.Fatal(err)
		}
		faults := CheckSetup(&u)
		if want == "" && len(faults) > 0 || want != "" && (len(faults) != 1 || !strings.Contains(faults[0].Message, want)) {
			t.Errorf("%s: %v, want %q", text, faults, want)
		}
	}
}

// What is on the shelf can be worn as it is.
func TestTheShelfIsWithinTheSettings(t *testing.T) {
	var u setup.Setup
	for _, item := range shelf.Items() {
		u.Finishes = append(u.Finishes, item.Finish)
	}
	u.Tidy()
	if f := CheckSetup(&u); len(f) > 0 {
		t.Error(f)
	}
}
