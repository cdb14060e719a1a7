package main

import (
	"encoding/binary"
	"fmt"
	"math"
	"os"

	"amberproof/core/accel"
	"amberproof/core/geom"
)

const (
	triangleBytes = 36
	rayBytes      = 32
	mostBytes     = 8 << 30
)

func read(path string, record int, what string) ([]byte, error) {
	info, err := os.Stat(path)
	if err != nil {
		return nil, err
	}
	if n := info.Size(); n%int64(record) != 0 || n > mostBytes {
		return nil, fmt.Errorf("%s: %d bytes are no whole number of %s of %d bytes each, or more than %d", path, n, what, record, int64(mostBytes))
	}
	return os.ReadFile(path)
}

func f32(b []byte, i int) float32 {
	return math.Float32frombits(binary.LittleEndian.Uint32(b[4*i:]))
}

func vec(b []byte, i int) geom.Vec3 { return geom.V(f32(b, i), f32(b, i+1), f32(b, i+2)) }

func readTriangles(path string) ([]accel.Triangle, error) {
	b, err := read(path, triangleBytes, "triangles")
	if err != nil {
		return nil, err
	}
	t := make([]accel.Triangle, len(b)/triangleBytes)
	for i := range t {
		r := b[i*triangleBytes:]
		t[i] = accel.Triangle{A: vec(r, 0), B: vec(r, 3), C: vec(r, 6)}
		if !t[i].A.Finite() || !t[i].B.Finite() || !t[i].C.Finite() {
			return nil, fmt.Errorf("%s: triangle %d has a corner that is not finite", path, i)
		}
	}
	return t, nil
}

func readRays(path string) ([]geom.Ray, error) {
	b, err := read(path, rayBytes, "rays")
	if err != nil {
		return nil, err
	}
	rays := make([]geom.Ray, len(b)/rayBytes)
	for i := range rays {
		r := b[i*rayBytes:]
		rays[i] = geom.Ray{O: vec(r, 0), TMin: f32(r, 3), D: vec(r, 4), TMax: f32(r, 7)}
		if q := &rays[i]; !q.O.Finite() || !q.D.Finite() || q.D.IsZero() || !(q.TMin >= 0) || math.IsNaN(float64(q.TMax)) {
			return nil, fmt.Errorf("%s: ray %d needs a finite origin, a direction, tmin of at least 0 and a tmax", path, i)
		}
	}
	return rays, nil
}

// answer is what a ray met.
type answer struct {
	t    float32
	prim uint32
}

const missed = math.MaxUint32

func (a answer) hit() bool { return !math.IsInf(float64(a.t), 1) }

func encode(all []answer) []byte {
	b := make([]byte, 0, len(all)*8)
	for _, a := range all {
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(a.t))
		b = binary.LittleEndian.AppendUint32(b, a.prim)
	}
	return b
}
