// Command raybench times the ray kernels on triangles and rays from files, so
// that they can be held against another kernel on the same input.
//
//	raybench TRIANGLES RAYS [--any] [--threads N] [--reps R] [--out FILE]
//
// TRIANGLES holds nine little-endian float32 a triangle, RAYS eight a ray:
// origin, tmin, direction, tmax. FILE gets, a ray, the distance (float32, +inf
// for a miss; with --any 0 when blocked) and the triangle (uint32, 0xffffffff
// for a miss). One line of JSON goes to the standard output.
package main

import (
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"time"
)

type report struct {
	// MraysCPU is the best repetition's rays over the summed processor time of
	// its threads, in millions a second; MraysWall the same over wall time.
	MraysCPU         float64 `json:"mrays_cpu"`
	MraysWall        float64 `json:"mrays_wall"`
	BuildMS          float64 `json:"build_ms"`
	BytesPerTriangle float64 `json:"bytes_per_triangle"`
	Hits             int     `json:"hits"`
}

func main() {
	if err := run(os.Args[1:], os.Stdout); err != nil {
		fmt.Fprintln(os.Stderr, "raybench:", err)
		os.Exit(2)
	}
}

func run(args []string, w io.Writer) error {
	fs := flag.NewFlagSet("raybench", flag.ContinueOnError)
	anyHit := fs.Bool("any", false, "ask only whether a ray is blocked")
	threads := fs.Int("threads", runtime.NumCPU(), "threads that trace")
	reps := fs.Int("reps", 5, "repetitions, of which the best counts")
	out := fs.String("out", "", "file for the answers")
	var files []string
	for rest := args; len(rest) > 0; { // flags may stand after the files
		if err := fs.Parse(rest); err != nil {
			return err
		}
		if rest = fs.Args(); len(rest) > 0 {
			files = append(files, rest[0])
			rest = rest[1:]
		}
	}
	switch {
	case len(files) != 2:
		return fmt.Errorf("it takes two files, TRIANGLES and RAYS; %d given", len(files))
	case *threads < 1 || *threads > 1024:
		return fmt.Errorf("--threads must be 1 to 1024")
	case *reps < 1 || *reps > 10000:
		return fmt.Errorf("--reps must be 1 to 10000")
	}
	tris, err := readTriangles(files[0])
	if err != nil {
		return err
	}
	rays, err := readRays(files[1])
	if err != nil {
		return err
	}
	b, buildMS := build(tris)
	answers := make([]answer, len(rays))
	r := report{BuildMS: buildMS, BytesPerTriangle: float64(b.Bytes()) / float64(max(len(tris), 1))}
	for range *reps {
		t, err := trace(b, rays, answers, *anyHit, *threads)
		if err != nil {
			return err
		}
		r.MraysCPU = max(r.MraysCPU, mega(len(rays), t.cpu))
		r.MraysWall = max(r.MraysWall, mega(len(rays), t.wall))
	}
	for _, a := range answers {
		if a.hit() {
			r.Hits++
		}
	}
	if *out != "" {
		if err := writeAnswers(*out, answers); err != nil {
			return err
		}
	}
	return json.NewEncoder(w).Encode(r)
}

func mega(n int, d time.Duration) float64 { return float64(n) / max(d.Seconds(), 1e-9) / 1e6 }

// writeAnswers replaces the file in one step.
func writeAnswers(path string, all []answer) error {
	b := encode(all)
	tmp, err := os.CreateTemp(filepath.Dir(path), ".raybench-*")
	if err != nil {
		return err
	}
	defer os.Remove(tmp.Name())
	if _, err := tmp.Write(b); err != nil {
		return err
	}
	if err := tmp.Close(); err != nil {
		return err
	}
	return os.Rename(tmp.Name(), path)
}
