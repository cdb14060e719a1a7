package ticket

import (
	"encoding/json"
	"strings"
	"testing"
)

func TestFaultsOfAFileSayWhereAndWhat(t *testing.T) {
	for _, c := range []struct{ in, path, want string }{
		{"{\n  \"view\": {\"width\": \"wide\"}\n}", "view.width", "must be a whole number, not text"},
		{"{\"quality\": {\"noise\": [1]}}", "quality.noise", "must be a number, not a list"},
		{"{\"stage\": {\"lights\": {}}}", "stage.lights", "must be a list in brackets, not a group"},
		{"{\"view\": {\"width\": 10,\n\n }}", "", "line 3, column 2"},
		{"{\"view\": {", "", "ends too early"},
		{"", "", "ends too early"},
		{"{\n\"view\": {\"whidth\": 10}}", "", "line 2, column 10: there is no setting called \"whidth\""},
		{"{\"quality\": {\"preset\": \"platinum\"}}", "quality.preset", "no preset \"platinum\""},
	} {
		_, f := Decode([]byte(c.in))
		if len(f) != 1 || f[0].Path != c.path || !strings.Contains(f[0].Message, c.want) {
			t.Errorf("%s: %+v, want %q at %q", c.in, f, c.want, c.path)
		}
		if len(f) > 0 && (strings.Contains(f[0].Message, "an int") || strings.Contains(f[0].Message, "float64") || strings.Contains(f[0].Message, "struct")) {
			t.Errorf("%s: a type's name in %q", c.in, f[0].Message)
		}
	}
}

func TestATicketMayNameAPresetOnly(t *testing.T) {
	got, f := Decode([]byte(`{"quality": {"preset": "press"}}`))
	if len(f) > 0 || got.Quality.Most != 4096 || got.Quality.Preset != "press" {
		t.Errorf("%+v %v", got.Quality, f)
	}
	got, f = Decode([]byte(`{"quality": {"preset": "press", "most": 100}}`))
	if len(f) > 0 || got.Quality.Most != 100 || got.Quality.Least != 64 || got.Quality.Preset != OwnQuality {
		t.Errorf("%+v %v", got.Quality, f)
	}
}

func FuzzDecode(f *testing.F) {
	b, _ := json.Marshal(New())
	f.Add(b)
	f.Add([]byte(`{"quality": {"preset": "press", "most": 100}}`))
	f.Add([]byte(`{"stage": {"lights": [{"name": "Key"}]}}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		got, faults := Decode(data)
		if len(faults) > 0 {
			return
		}
		again, faults := Decode(Encode(got))
		if len(faults) > 0 {
			t.Fatalf("what was read is refused once written: %v", faults)
		}
		a, b := Resolved{Ticket: got}, Resolved{Ticket: again}
		if a.Fingerprint() != b.Fingerprint() {
			t.Fatal("a ticket changes by being written and read")
		}
	})
}
