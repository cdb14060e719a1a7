package importer

import (
	"bytes"
	"encoding/binary"
	"math"
	"strings"
	"testing"

	"amberproof/core/geom"
)

// swing is the plate with an animation that shifts it by a metre in x and turns
// it by 90 degrees about z within two seconds.
func swing() (object, []byte) {
	doc, bin := square()
	var b bytes.Buffer
	b.Write(bin)
	view := func(v any, n int) int {
		views := doc["bufferViews"].([]any)
		doc["bufferViews"] = append(views, object{"buffer": 0, "byteOffset": b.Len(), "byteLength": n})
		_ = binary.Write(&b, binary.LittleEndian, v)
		return len(views)
	}
	h := float32(math.Sqrt(0.5))
	times := view([]float32{0, 2}, 8)
	shifts := view([]float32{0, 0, 0, 1, 0, 0}, 24)
	turns := view([]int16{0, 0, 0, 32767, 0, 0, int16(h * 32767), int16(h * 32767)}, 16)
	acc := doc["accessors"].([]any)
	doc["accessors"] = append(acc,
		object{"bufferView": times, "componentType": 5126, "count": 2, "type": "SCALAR"},
		object{"bufferView": shifts, "componentType": 5126, "count": 2, "type": "VEC3"},
		object{"bufferView": turns, "componentType": 5122, "normalized": true, "count": 2, "type": "VEC4"})
	n := len(acc)
	doc["animations"] = []any{object{
		"name":     "swing",
		"samplers": []any{object{"input": n, "output": n + 1}, object{"input": n, "output": n + 2, "interpolation": "LINEAR"}},
		"channels": []any{
			object{"sampler": 0, "target": object{"node": 0, "path": "translation"}},
			object{"sampler": 1, "target": object{"node": 0, "path": "rotation"}},
		},
	}}
	doc["buffers"] = []any{object{"byteLength": b.Len()}}
	return doc, b.Bytes()
}

func TestAnimationsMoveNodes(t *testing.T) {
	doc, bin := swing()
	s, err := load(t, doc, bin)
	if err != nil {
		t.Fatal(err)
	}
	if len(s.Motions) != 1 || s.Motions[0].Name != "swing" || s.Motions[0].Length() != 2 || len(s.LeftOut) != 0 {
		t.Fatalf("motions %+v, left out %v", s.Motions, s.LeftOut)
	}
	got := s.At(0, 1).Objects[0].World.Point(geom.V(1, 0, 0))
	want := geom.V(0.5+float32(math.Sqrt(0.5)), float32(math.Sqrt(0.5)), 0)
	if got.Sub(want).Len() > 1e-4 {
		t.Errorf("half way the corner is at %v, want %v", got, want)
	}
}

func TestAnimationsThatCannotBeAreRefusedOrNoted(t *testing.T) {
	for _, c := range []struct {
		spoil       func(doc object)
		refused, no string
	}{
		{func(d object) { at(d, "animations", 0, "samplers", 0)["input"] = 99 }, "accessor 99", ""},
		{func(d object) { at(d, "animations", 0, "channels", 0)["sampler"] = 7 }, "sampler 7", ""},
		{func(d object) { at(d, "animations", 0, "channels", 0, "target")["node"] = 7 }, "object 7", ""},
		{func(d object) { at(d, "animations", 0, "samplers", 0)["interpolation"] = "WOBBLE" }, "WOBBLE", ""},
		{func(d object) { at(d, "animations", 0, "samplers", 0)["interpolation"] = "CUBICSPLINE" }, "2 keys and 2 values", ""},
		{func(d object) { at(d, "animations", 0, "samplers", 0)["output"] = 5 + 1 }, "3 numbers are needed", ""},
		{func(d object) { at(d, "animations", 0, "channels", 0, "target")["path"] = "weights" }, "", "weights"},
		{func(d object) {
			at(d, "nodes", 0)["matrix"] = []float64{1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1}
		}, "", "matrix"},
	} {
		doc, bin := swing()
		c.spoil(doc)
		s, err := load(t, doc, bin)
		switch {
		case c.refused != "" && (err == nil || !strings.Contains(err.Error(), c.refused)):
			t.Errorf("want a refusal that says %q, got %v", c.refused, err)
		case c.no != "" && (err != nil || len(s.LeftOut) == 0 || !strings.Contains(s.LeftOut[0].What, c.no)):
			t.Errorf("want a note that says %q, got %v %v", c.no, err, s)
		}
	}
}
