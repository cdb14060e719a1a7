package parallel_test

import (
	"bytes"
	"context"
	"errors"
	"go/ast"
	"go/parser"
	"go/token"
	"image"
	"io/fs"
	"path/filepath"
	"runtime"
	"strings"
	"sync/atomic"
	"testing"

	"amberproof/core/accel"
	"amberproof/core/denoise"
	"amberproof/core/film"
	"amberproof/core/finish"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/live"
	"amberproof/core/parallel"
	"amberproof/core/passes"
	"amberproof/core/preflight"
	"amberproof/core/sampling"
	"amberproof/core/scene"
	"amberproof/core/trace"
)

// small is a scene of two sheets, and how a picture of it is made.
func small() (*scene.Scene, trace.Options) {
	s := &scene.Scene{Finishes: []scene.Finish{scene.NewFinish("Matte")}}
	for k := range 2 {
		m := scene.Mesh{Shaping: scene.Shaping{Levels: 1}}
		y := float32(k)
		m.Positions = []geom.Vec3{{X: -1, Y: y, Z: -1}, {X: 1, Y: y, Z: -1}, {X: 1, Y: y, Z: 1}, {X: -1, Y: y, Z: 1}}
		for range m.Positions {
			m.Normals = append(m.Normals, geom.V(0, 1, 0))
		}
		m.Indices = []uint32{0, 2, 1, 0, 3, 2}
		s.Meshes = append(s.Meshes, m)
		s.Objects = append(s.Objects, scene.Object{Name: "Sheet", Parent: -1, Local: geom.Identity(), World: geom.Identity()})
		s.Parts = append(s.Parts, scene.Part{Name: "Sheet", Object: k, Mesh: k})
	}
	o := trace.Options{
		Width: 32, Height: 32, Window: image.Rect(0, 0, 32, 32), Filter: sampling.Box, FilterWidth: 1, Seed: 1, Finishes: s.Finishes, Wears: []int{0, 0},
		Camera:   trace.Camera{World: geom.LookAt(geom.V(0, 4, 3), geom.Vec3{}, geom.V(0, 1, 0)), YFov: 0.5},
		Surround: trace.Surround{On: true, Tone: geom.Splat(1), Strength: 1},
		Layout:   passes.Wanted{Denoise: true}.Needs(nil),
	}
	return s, o
}

// A panic in any goroutine of the core is the error, or the panic, of whoever asked for
// what it did: in each place in turn.
func TestAPanicInEveryPlace(t *testing.T) {
	ctx := t.Context()
	s, o := small()
	w, err := trace.Prepare(ctx, s, o)
	if err != nil {
		t.Fatal(err)
	}
	exposed := func() *film.Film { return film.New(o.Window, o.Layout) }
	f := exposed()
	if err := trace.Expose(ctx, w, f, 0, 4, 2); err != nil {
		t.Fatal(err)
	}
	p := &finish.Picture{W: 8, H: 8, R: make([]float32, 64), G: make([]float32, 64), B: make([]float32, 64), A: make([]float32, 64)}
	var exr bytes.Buffer
	e := &imageio.EXR{Window: image.Rect(0, 0, 4, 40), Display: image.Rect(0, 0, 4, 40),
		Channels: []imageio.Channel{{Name: "Y", Type: imageio.Float, Data: make([]float32, 160)}}}
	if err := imageio.WriteEXR(&exr, e); err != nil {
		t.Fatal(err)
	}
	var many []accel.Triangle
	for i := range 9000 {
		x := float32(i)
		many = append(many, accel.Triangle{A: geom.V(x, 0, 0), B: geom.V(x, 1, 0), C: geom.V(x, 0, 1)})
	}
	places := map[string]func(context.Context) error{
		"a hierarchy":          func(ctx context.Context) error { _, err := accel.Build(ctx, many); return err },
		"preparing":            func(ctx context.Context) error { _, err := trace.Prepare(ctx, s, o); return err },
		"exposing":             func(ctx context.Context) error { return trace.Expose(ctx, w, exposed(), 0, 1, 2) },
		"a shaded picture":     func(ctx context.Context) error { _, err := w.Shaded(ctx); return err },
		"the light that falls": func(ctx context.Context) error { _, err := w.Fallen(ctx, 64, 2); return err },
		"denoising": func(ctx context.Context) error {
			_, err := (&denoise.Order{Film: f, Behind: -1, Workers: 2}).Run(ctx, func(float64) {})
			return err
		},
		"a live picture": func(ctx context.Context) error {
			return live.Refine(ctx, live.Order{World: w, Workers: func() int { return 2 }, Most: 4}, func(live.Step) error { return nil })
		},
		"a reduced film":     func(context.Context) error { f.Reduced(2, 2, func(string) bool { return true }); return nil },
		"a picture as shown": func(context.Context) error { finish.Finish{}.Shown(p); return nil },
		"writing an EXR":     func(context.Context) error { return imageio.WriteEXR(&bytes.Buffer{}, e) },
		"reading an EXR":     func(context.Context) error { _, err := imageio.ReadEXR(exr.Bytes(), imageio.DefaultLimits); return err },
		"shaping":            func(ctx context.Context) error { _, err := s.Made(ctx, func(int) bool { return true }); return err },
		"a preflight": func(ctx context.Context) error {
			_, err := preflight.Run(ctx, preflight.Subject{Scene: s, Lamp: func(int) bool { return false }}, nil)
			return err
		},
	}
	for name, do := range places {
		t.Run(name, func(t *testing.T) {
			call := func() (err error) {
				defer parallel.Catch(&err)
				return do(ctx)
			}
			starts := 0
			for fails := 1; ; fails++ { // the first goroutine that is started, the second ...
				var n atomic.Int32
				parallel.OnStart(func() {
					if int(n.Add(1)) == fails {
						panic("thrown by a test")
					}
				})
				err := call()
				parallel.OnStart(nil)
				if int(n.Load()) < fails {
					if err != nil {
						t.Fatalf("nothing was thrown: %v", err)
					}
					break
				}
				starts++
				if left := stillWorking(); left != "" {
					t.Fatalf("after goroutine %d there is still one at work: %s", fails, left)
				}
				var p *parallel.Panic
				if !errors.As(err, &p) || p.What != "thrown by a test" || p.Stack == "" {
					t.Fatalf("goroutine %d: %v", fails, err)
				}
			}
			if starts == 0 {
				t.Error("it starts no goroutine")
			}
		})
	}
}

// stillWorking is the stack of a goroutine that was started by this package and has not
// ended.
func stillWorking() string {
	all := make([]byte, 1<<20)
	for one := range strings.SplitSeq(string(all[:runtime.Stack(all, true)]), "\n\n") {
		if strings.Contains(one, "parallel.(*Group).guarded") {
			return one
		}
	}
	return ""
}

// No other package of the core starts a goroutine by itself, or in a group that nobody may
// wait for.
func TestNobodyElseStartsGoroutines(t *testing.T) {
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") || filepath.Dir(path) == "../parallel" {
			return err
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		if err != nil {
			return err
		}
		ast.Inspect(file, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.GoStmt:
				t.Errorf("%s starts a goroutine", path)
			case *ast.ValueSpec:
				if s, ok := n.Type.(*ast.SelectorExpr); ok && s.Sel.Name == "Group" {
					t.Errorf("%s has a group of goroutines without a scope", path)
				}
			case *ast.SelectorExpr:
				if x, ok := n.X.(*ast.Ident); ok && x.Name == "sync" && n.Sel.Name == "WaitGroup" {
					t.Errorf("%s has a sync.WaitGroup", path)
				}
			}
			return true
		})
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}
