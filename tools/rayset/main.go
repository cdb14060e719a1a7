// Command rayset writes a made-up scene of a given size and four sets of rays
// through it, in the form raybench reads: primary, bounce1, bounce2 and short.
//
//	rayset --triangles N --out DIR
package main

import (
	"context"
	"encoding/binary"
	"flag"
	"fmt"
	"math"
	"os"
	"path/filepath"

	"amberproof/core/accel"
	"amberproof/core/geom"
)

func main() {
	n := flag.Int("triangles", 250000, "about how many triangles, 1000 to 20000000")
	out := flag.String("out", "", "folder for the files")
	flag.Parse()
	if err := run(*n, *out); err != nil {
		fmt.Fprintln(os.Stderr, "rayset:", err)
		os.Exit(2)
	}
}

func run(n int, out string) error {
	if n < 1000 || n > 20_000_000 || out == "" {
		return fmt.Errorf("--triangles must be 1000 to 20000000, and --out a folder")
	}
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	tris := setting(n)
	var b []byte
	for _, t := range tris {
		b = put(b, t.A.X, t.A.Y, t.A.Z, t.B.X, t.B.Y, t.B.Z, t.C.X, t.C.Y, t.C.Z)
	}
	if err := os.WriteFile(filepath.Join(out, "triangles.f32"), b, 0o644); err != nil {
		return err
	}
	bvh, err := accel.Build(context.Background(), tris)
	if err != nil {
		return err
	}
	for name, rays := range shoot(bvh, tris) {
		b = b[:0]
		for _, r := range rays {
			b = put(b, r.O.X, r.O.Y, r.O.Z, r.TMin, r.D.X, r.D.Y, r.D.Z, r.TMax)
		}
		if err := os.WriteFile(filepath.Join(out, name+".f32"), b, 0o644); err != nil {
			return err
		}
	}
	return nil
}

func put(b []byte, v ...float32) []byte {
	for _, x := range v {
		b = binary.LittleEndian.AppendUint32(b, math.Float32bits(x))
	}
	return b
}

// setting is a table of turned and ribbed bodies of very different fineness, as
// product scenes have them, on a coarse floor.
func setting(n int) []accel.Triangle {
	tris := []accel.Triangle{
		{A: geom.V(-6, 0, -6), B: geom.V(-6, 0, 6), C: geom.V(6, 0, 6)},
		{A: geom.V(-6, 0, -6), B: geom.V(6, 0, 6), C: geom.V(6, 0, -6)},
	}
	const bodies = 12
	for k := range bodies {
		// Shares of 1 to 12 of the triangles, each quad being two of them.
		quads := float64(n) / 2 * float64(k+1) / (bodies * (bodies + 1) / 2)
		rows := int(math.Sqrt(quads / 2))
		cols := int(quads / float64(rows))
		x, z := float64(k%4)*1.3-2, float64(k/4)*1.3-1.4
		at := func(i, j int) geom.Vec3 {
			h := float64(i) / float64(rows)
			a := 2 * math.Pi * float64(j%cols) / float64(cols)
			r := 0.5*math.Sin(math.Pi*min(max(h, 0.02), 0.98))*(1+0.3*math.Sin(9*h+float64(k))) + 0.012*math.Cos(a*float64(6+2*k))*math.Sin(math.Pi*h)
			return geom.V(float32(x+r*math.Cos(a)), float32(0.01+h*(0.8+0.1*float64(k%5))), float32(z+r*math.Sin(a)))
		}
		for i := range rows {
			for j := range cols {
				a, b, c, d := at(i, j), at(i+1, j), at(i+1, j+1), at(i, j+1)
				tris = append(tris, accel.Triangle{A: a, B: b, C: c}, accel.Triangle{A: a, B: c, C: d})
			}
		}
	}
	return tris
}
