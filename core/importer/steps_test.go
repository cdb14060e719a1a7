package importer

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
)

// grid is an object file of a level grid of n times n squares.
func grid(n int) []byte {
	var b strings.Builder
	for i := range n + 1 {
		for k := range n + 1 {
			fmt.Fprintf(&b, "v %d 0 %d\n", i, k)
		}
	}
	for i := range n {
		for k := range n {
			a := i*(n+1) + k + 1
			fmt.Fprintf(&b, "f %d %d %d %d\n", a, a+1, a+n+2, a+n+1)
		}
	}
	return []byte(b.String())
}

// An import tells how far it is, further each time within a step, and ends at once where
// it is given up.
func TestSteps(t *testing.T) {
	doc, bin := square()
	doc["materials"] = []any{object{"name": "a"}, object{"name": "b"}}
	for name, b := range map[string]Bundle{"a.glb": {"a.glb": glb(doc, bin)}, "a.obj": {"a.obj": grid(150)}} {
		var order []Step
		last := 0.0
		ctx := Watched(t.Context(), func(step Step, share float64) {
			if len(order) == 0 || order[len(order)-1] != step {
				order, last = append(order, step), 0
			}
			if share < last || share > 1 {
				t.Errorf("%s: %s went from %g to %g", name, step, last, share)
			}
			last = share
		})
		if _, err := Import(ctx, b, DefaultLimits); err != nil {
			t.Fatal(err)
		}
		want := "[finishes shapes finer]"
		if name == "a.obj" {
			want = "[shapes finer]"
		}
		if fmt.Sprint(order) != want {
			t.Errorf("%s: steps %v, want %s", name, order, want)
		}
		ended, stop := context.WithCancel(t.Context())
		told := 0
		_, err := Import(Watched(ended, func(step Step, _ float64) {
			if told++; step == Shapes {
				stop()
			}
		}), b, DefaultLimits)
		if !errors.Is(err, context.Canceled) {
			t.Errorf("%s, given up: %v", name, err)
		}
		stop()
	}
}

// Read is how long an import of 45 000 triangles takes without normals.
func BenchmarkOBJ(b *testing.B) {
	data := grid(150)
	for b.Loop() {
		if _, err := Import(b.Context(), Bundle{"a.obj": data}, DefaultLimits); err != nil {
			b.Fatal(err)
		}
	}
}
