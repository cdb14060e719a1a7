package round

import (
	"encoding/json"
	"math"
	"reflect"
	"testing"
)

func TestMarks(t *testing.T) {
	p := func(v ...float64) (out [][2]float64) {
		for i := 0; i < len(v); i += 2 {
			out = append(out, [2]float64{v[i], v[i+1]})
		}
		return out
	}
	for _, c := range []struct {
		m    Mark
		fine bool
		x, y float64
	}{
		{Mark{Spot, p(0.25, 0.5)}, true, 0.25, 0.5},
		{Mark{Spot, p(0, 1)}, true, 0, 1},
		{Mark{Box, p(0.5, 0.25, 0.25, 0.75)}, true, 0.375, 0.5},
		{Mark{Stroke, p(0, 0, 0.5, 0.25, 1, 1)}, true, 0.5, 0.25},
		{Mark{Spot, nil}, false, 0, 0},
		{Mark{Spot, p(0, 0, 1, 1)}, false, 0, 0},
		{Mark{Box, p(0, 0)}, false, 0, 0},
		{Mark{Stroke, p(0, 0)}, false, 0, 0},
		{Mark{Stroke, make([][2]float64, mostPoints+1)}, false, 0, 0},
		{Mark{"arrow", p(0, 0)}, false, 0, 0},
		{Mark{Spot, p(-0.01, 0)}, false, 0, 0},
		{Mark{Spot, p(0, 1.01)}, false, 0, 0},
		{Mark{Spot, p(math.NaN(), 0)}, false, 0, 0},
	} {
		if err := c.m.Fault(); (err == nil) != c.fine {
			t.Errorf("%+v: %v", c.m, err)
		} else if err == nil {
			if x, y := c.m.Anchor(); x != c.x || y != c.y {
				t.Errorf("%+v is held at %v, %v", c.m, x, y)
			}
		}
	}
}

func FuzzMark(f *testing.F) {
	for _, s := range []string{`{"kind":"spot","points":[[0.5,1]]}`, `{"kind":"spot","points":[null]}`, `{"kind":"box","points":[[0],[1,1,1]]}`, `null`, `[]`} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		var m Mark
		if json.Unmarshal(b, &m) != nil || m.Fault() != nil {
			return
		}
		if x, y := m.Anchor(); !(x >= 0 && x <= 1 && y >= 0 && y <= 1) {
			t.Errorf("%s is held at %v, %v", b, x, y)
		}
		again, err := json.Marshal(&m)
		var n Mark
		if err != nil || json.Unmarshal(again, &n) != nil || !reflect.DeepEqual(m, n) {
			t.Errorf("%s becomes %s", b, again)
		}
	})
}

func TestPointsHaveTwoNumbers(t *testing.T) {
	for _, s := range []string{`{"kind":"spot","points":[null]}`, `{"kind":"spot","points":[[1]]}`, `{"kind":"spot","points":[[1,1,1]]}`} {
		if err := json.Unmarshal([]byte(s), new(Mark)); err == nil {
			t.Errorf("%s is a mark", s)
		}
	}
}

func TestSettling(t *testing.T) {
	for _, c := range []struct {
		from, to RemarkState
		words    string
		fine     bool
	}{
		{Open, Done, "", true}, {Open, WontDo, "the client wants it", true}, {Open, WontDo, "", false}, {Done, Open, "", true},
		{Done, Done, "", false}, {WontDo, Done, "", true}, {Open, "later", "x", false},
	} {
		if err := Settle(c.from, c.to, c.words); (err == nil) != c.fine {
			t.Errorf("%s to %s: %v", c.from, c.to, err)
		}
	}
}
