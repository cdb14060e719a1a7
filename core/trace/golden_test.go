package trace

import (
	"bytes"
	"flag"
	"fmt"
	"image"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/finish"
	"amberproof/core/geom"
	"amberproof/core/imageio"
)

// go test ./core/trace -run Golden -update makes the golden renders anew, and
// the page that shows them. Look at them before committing.
var update = flag.Bool("update", false, "make the golden renders anew")

const (
	goldenSide    = 96
	goldenSamples = 32
	goldenDir     = "testdata/golden"
	pageDir       = "../../docs/golden"
)

// shown is the displayed luminance, in percent of display white.
func shown(c geom.Vec3) float64 {
	return 100 * float64(colour.EncodeSRGB(colour.Filmic.Tone(colour.Luminance(c))))
}

// pixelsOf is the beauty of a film, and of half A.
func pixelsOf(f *film.Film) (all, half []geom.Vec3) {
	all, half = make([]geom.Vec3, goldenSide*goldenSide), make([]geom.Vec3, goldenSide*goldenSide)
	for y := range goldenSide {
		for x := range goldenSide {
			s, i := f.At(x, y)
			k := y*goldenSide + x
			all[k], _ = s.Light(i)
			half[k], _, _ = s.Halves(i)
		}
	}
	return all, half
}

// compareBlocks holds two renders against each other as an eye would, in blocks
// of 8 x 8 pixels: means of displayed luminance, whose difference may be four
// and a half standard errors (from the two halves of the samples) and half a percent of white.
func compareBlocks(got, half, want []geom.Vec3) (worst float64, at image.Point) {
	const n = 8
	for by := 0; by < goldenSide; by += n {
		for bx := 0; bx < goldenSide; bx += n {
			var d, v float64
			for y := by; y < by+n; y++ {
				for x := bx; x < bx+n; x++ {
					i := y*goldenSide + x
					d += (shown(got[i]) - shown(want[i])) / (n * n)
					e := shown(half[i]) - shown(got[i]) // half A against the whole: one standard error
					v += e * e / (n * n * n * n)
				}
			}
			if r := math.Abs(d) / (0.5 + 4.5*math.Sqrt(2*v)); r > worst {
				worst, at = r, image.Pt(bx, by)
			}
		}
	}
	return worst, at
}

func TestGoldenRenders(t *testing.T) {
	long(t)
	var page strings.Builder
	page.WriteString("# Golden renders\n\nSmall pictures of tricky set-ups. `go test ./core/trace -run Golden` renders them again and " +
		"compares blocks of 8 x 8 pixels, in displayed\nluminance, with a bound that knows the noise; `-update` makes them and this page anew.\n\n" +
		"| picture | what it would show first |\n|---|---|\n")
	for _, g := range goldens {
		t.Run(g.name, func(t *testing.T) {
			b := newBench(goldenSide, goldenSide)
			b.opt.DiffuseBounces, b.opt.GlossyBounces, b.opt.ClearBounces = 4, 6, 12
			b.camera(geom.V(0, 1.1, 4.2), geom.V(0, 0.6, 0), 0.5)
			g.build(b)
			f := b.render(t, goldenSamples)
			got, half := pixelsOf(f)
			path := filepath.Join(goldenDir, g.name+".exr")
			if *update {
				save(t, path, got)
				picture(t, filepath.Join(pageDir, g.name+".png"), got)
				return
			}
			raw, err := os.ReadFile(path)
			if err != nil {
				t.Fatal(err)
			}
			e, err := imageio.ReadEXR(raw, imageio.DefaultLimits)
			if err != nil {
				t.Fatal(err)
			}
			want := make([]geom.Vec3, len(got))
			for i := range want {
				want[i] = geom.V(e.Channel("R").Data[i], e.Channel("G").Data[i], e.Channel("B").Data[i])
			}
			if worst, at := compareBlocks(got, half, want); worst > 1 {
				out := filepath.Join(os.TempDir(), "golden-"+g.name+".png")
				picture(t, out, got)
				t.Errorf("the block at %v is off by %.1f times its bound; see %s", at, worst, out)
			}
		})
		fmt.Fprintf(&page, "| ![%s](golden/%s.png) | **%s.** %s |\n", g.name, g.name, g.name, g.shows)
	}
	if *update {
		if err := os.WriteFile(pageDir+".md", []byte(page.String()), 0o644); err != nil {
			t.Fatal(err)
		}
	}
}

func save(t *testing.T, path string, px []geom.Vec3) {
	t.Helper()
	r := image.Rect(0, 0, goldenSide, goldenSide)
	e := &imageio.EXR{Display: r, Window: r, Compression: imageio.PIZ}
	for k, n := range []string{"R", "G", "B"} {
		d := make([]float32, len(px))
		for i := range d {
			d[i] = px[i].At(k)
		}
		e.Channels = append(e.Channels, imageio.Channel{Name: n, Type: imageio.Half, Data: d})
	}
	var b bytes.Buffer
	if err := imageio.WriteEXR(&b, e); err != nil {
		t.Fatal(err)
	}
	write(t, path, b.Bytes())
}

func picture(t *testing.T, path string, px []geom.Vec3) {
	t.Helper()
	p := &finish.Picture{W: goldenSide, H: goldenSide}
	for _, c := range px {
		p.R, p.G, p.B = append(p.R, c.X), append(p.G, c.Y), append(p.B, c.Z)
	}
	var b bytes.Buffer
	if err := imageio.WritePNG(&b, finish.Finish{Transform: colour.Filmic}.Shown(p)); err != nil {
		t.Fatal(err)
	}
	write(t, path, b.Bytes())
}

func write(t *testing.T, path string, b []byte) {
	t.Helper()
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(path, b, 0o644); err != nil {
		t.Fatal(err)
	}
}

// The comparison itself must see what an eye would, and not what noise does.
func TestTheGoldenComparisonSeesAChange(t *testing.T) {
	long(t)
	b := newBench(goldenSide, goldenSide)
	b.camera(geom.V(0, 1.1, 4.2), geom.V(0, 0.6, 0), 0.5)
	goldens[0].build(b)
	f := b.render(t, 16)
	got, half := pixelsOf(f)
	b.opt.Seed = 99
	other, _ := pixelsOf(b.render(t, 16))
	if worst, at := compareBlocks(got, half, other); worst > 1 {
		t.Errorf("another seed differs by %.2f times the bound at %v", worst, at)
	}
	for y := 40; y < 56; y++ {
		for x := 40; x < 56; x++ {
			other[y*goldenSide+x] = other[y*goldenSide+x].Scale(0.8)
		}
	}
	if worst, _ := compareBlocks(got, half, other); worst < 1 {
		t.Errorf("a patch a fifth darker goes unseen: %.2f times the bound", worst)
	}
}
