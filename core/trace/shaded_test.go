package trace

import (
	"context"
	"errors"
	"math"
	"testing"

	"amberproof/core/geom"
)

func TestShadedShowsShapesWithoutLight(t *testing.T) {
	b := newBench(40, 40)
	paint := matte(0)
	paint.Base = geom.V(0.8, 0.4, 0.2)
	b.part("wall", quad(geom.V(-1, -1, 0), geom.V(2, 0, 0), geom.V(0, 2, 0)), b.finish(paint))
	b.part("pane", quad(geom.V(-1, -1, 0.5), geom.V(1, 0, 0), geom.V(0, 2, 0)), b.finish(glass(0)))
	b.camera(geom.V(0, 0, 40), geom.Vec3{}, 2*math.Atan(2.0/40))
	p, err := b.world(t).Shaded(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	at := func(x, y int) [4]float32 { i := y*p.W + x; return [4]float32{p.R[i], p.G[i], p.B[i], p.A[i]} }
	if got := at(1, 20); got != [4]float32{} {
		t.Errorf("beside everything: %v", got)
	}
	bare, veiled := at(25, 20), at(15, 20)
	for c, want := range []float32{0.8, 0.4, 0.2, 1} {
		if d := bare[c] - want; d > 0.01 || d < -0.01 {
			t.Errorf("facing the camera, channel %d: %v, want %v", c, bare[c], want)
		}
	}
	if !(veiled[2] > bare[2]+0.05) || math.Abs(float64(veiled[3]-1)) > 1e-3 {
		t.Errorf("through the pane %v, bare %v", veiled, bare)
	}
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	if _, err := b.world(t).Shaded(ctx); !errors.Is(err, context.Canceled) {
		t.Errorf("cancelled: %v", err)
	}
}
