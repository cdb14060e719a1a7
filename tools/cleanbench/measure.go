package main

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/noise"
)

// made is what a binary made of a ticket.
type made struct {
	plain, denoised *hdr    // scene-linear; the second is nil where the binary does not denoise
	seconds         float64 // of processors, from the reading of the scene to the written file
	told            float64 // noise that is left of the denoised picture as the manifest has it, percent
}

// render has a binary render a ticket.
func render(bin, dir, scene string, ticket []byte, threads int) (m made, err error) {
	out, err := os.MkdirTemp(dir, "out")
	if err != nil {
		return m, err
	}
	defer os.RemoveAll(out)
	file := filepath.Join(dir, "ticket.json")
	if err := os.WriteFile(file, ticket, 0o600); err != nil {
		return m, err
	}
	files := filepath.Join(out, "files")
	c := exec.Command(bin, "render", "--scene", filepath.Join(dir, scene), "--ticket", file, "--out", files, "--threads", fmt.Sprint(threads))
	var said strings.Builder
	c.Stderr = &said
	if err := c.Run(); err != nil {
		return m, fmt.Errorf("%s: %w\n%s", bin, err, said.String())
	}
	m.seconds = (c.ProcessState.UserTime() + c.ProcessState.SystemTime()).Seconds()
	found := map[string]string{} // by ending
	err = filepath.WalkDir(files, func(path string, _ fs.DirEntry, err error) error {
		found[filepath.Ext(path)] = path
		return err
	})
	if err != nil {
		return m, err
	}
	raw, err := os.ReadFile(found[".exr"])
	if err != nil {
		return m, err
	}
	if m.plain, m.denoised, err = beauties(raw); err != nil {
		return m, err
	}
	if raw, err = os.ReadFile(found[".json"]); err != nil {
		return m, err
	}
	m.told, err = noiseTold(raw)
	return m, err
}

// noiseTold is the noise that a manifest says to be left of the denoised picture, percent; 0
// where it says nothing of it.
func noiseTold(manifest []byte) (float64, error) {
	var m struct {
		Frames []struct {
			Denoised struct{ NoisePercent float64 }
		}
	}
	if err := json.Unmarshal(manifest, &m); err != nil || len(m.Frames) == 0 {
		return 0, err
	}
	return m.Frames[0].Denoised.NoisePercent, nil
}

// hdr is a scene-linear picture.
type hdr struct {
	w, h int
	px   []geom.Vec3
}

// beauties reads the plain beauty out of a file, and the denoised one if it is there.
func beauties(raw []byte) (plain, denoised *hdr, err error) {
	e, err := imageio.ReadEXR(raw, imageio.DefaultLimits)
	if err != nil {
		return nil, nil, err
	}
	layer := func(name string) *hdr {
		r, g, b := e.Channel(name+"R"), e.Channel(name+"G"), e.Channel(name+"B")
		if r == nil || g == nil || b == nil {
			return nil
		}
		p := &hdr{e.Window.Dx(), e.Window.Dy(), make([]geom.Vec3, len(r.Data))}
		for i := range p.px {
			p.px[i] = geom.V(r.Data[i], g.Data[i], b.Data[i])
		}
		return p
	}
	if plain = layer(""); plain == nil {
		return nil, nil, errors.New("the file has no channels R, G and B")
	}
	return plain, layer("beauty.denoised."), nil
}

// truth is what pictures are held against: two references that know nothing of each
// other.
type truth [2]*hdr

// mean is both together.
func (t *truth) mean() *hdr {
	m := &hdr{t[0].w, t[0].h, make([]geom.Vec3, len(t[0].px))}
	for i := range m.px {
		m.px[i] = t[0].px[i].Lerp(t[1].px[i], 0.5)
	}
	return m
}

// references renders the truth of a set-up.
func (o *options) references(dir string, s *setup) (t truth, err error) {
	for k := range t {
		if t[k], err = o.reference(dir, s, seedOfTruth+k); err != nil {
			return t, err
		}
	}
	return t, nil
}

// reference renders with many samples once, and keeps the picture in a folder under what
// it is of.
func (o *options) reference(dir string, s *setup, seed int) (*hdr, error) {
	ticket, err := s.ticket(o.bins[0], dir, o.side, o.truth, seed)
	if err != nil {
		return nil, err
	}
	scene, err := os.ReadFile(filepath.Join(dir, s.file))
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(append(append([]byte{}, ticket...), scene...))
	path := filepath.Join(o.keep, hex.EncodeToString(sum[:12])+".json")
	if raw, err := os.ReadFile(path); err == nil {
		p := &hdr{w: o.side, h: o.side}
		return p, json.Unmarshal(raw, &p.px)
	}
	m, err := render(o.bins[0], dir, s.file, ticket, o.threads)
	if err != nil {
		return nil, err
	}
	fmt.Fprintf(os.Stderr, "%s: reference of %d samples in %.0f processor seconds\n", s.name, o.truth, m.seconds)
	raw, err := json.Marshal(m.plain.px)
	if err != nil {
		return nil, err
	}
	return m.plain, errors.Join(os.MkdirAll(o.keep, 0o755), os.WriteFile(path, raw, 0o644))
}

// shown is a picture as a screen shows it at the tickets' look: linear display light.
func (p *hdr) shown() *picture {
	out := &picture{p.w, p.h, make([][3]float64, len(p.px))}
	look := colour.Transform("filmic")
	for i, c := range p.px {
		for k := range out.px[i] {
			out.px[i][k] = float64(look.Tone(c.At(k)))
		}
	}
	return out
}

// rms is the error of displayed luminance, in percent of display white, as noise is
// measured (docs/rendering.md). It is the mean of what a picture is off by from one
// reference times what it is off by from the other: their own noise, which is independent,
// does not count in that.
func rms(t *truth, test *hdr) float64 {
	var sum float64
	for i := range test.px {
		sum += t.squared(i, test)
	}
	return 100 * math.Sqrt(math.Max(0, sum/float64(len(test.px))))
}

// squared is what pixel i of a picture is off by, squared, but for the references' noise.
func (t *truth) squared(i int, test *hdr) float64 {
	look := colour.Transform("filmic")
	tone := func(p *hdr) float64 { return float64(colour.EncodeSRGB(look.Tone(colour.Luminance(p.px[i])))) }
	v := tone(test)
	return (v - tone(t[0])) * (v - tone(t[1]))
}

// frame is the error of a picture as the noise that is left of a frame is told
// (docs/rendering.md): of each tile by itself and half a tile around, and of these the 95th
// percentile.
func (t *truth) frame(test *hdr) float64 {
	const side = film.TileSize
	at := func(from, size int) (lo, hi int) {
		lo = max(0, min(from-side/2, size-2*side))
		return lo, min(size, lo+2*side)
	}
	var tiles []float64
	for y := 0; y < test.h; y += side {
		for x := 0; x < test.w; x += side {
			left, right := at(x, test.w)
			top, bottom := at(y, test.h)
			var sum float64
			for v := top; v < bottom; v++ {
				for u := left; u < right; u++ {
					sum += t.squared(v*test.w+u, test)
				}
			}
			tiles = append(tiles, 100*math.Sqrt(math.Max(0, sum/float64((right-left)*(bottom-top)))))
		}
	}
	return noise.OfFrame(tiles)
}

// Tiles that one may look at by themselves, and how much worse one is let be.
const (
	tileSide  = 32
	letWorse  = 1.05
	surelyOff = 3         // standard errors of what references can tell of a tile
	unseen    = 0.1 / 255 // off by less than a tenth of a step of 8 bits, nothing is worse
)

// tilesWorse counts the tiles whose error is surely over letWorse times as much in one
// picture as in another, and says how many there are.
func tilesWorse(t *truth, than, test *hdr) (worse, all int) {
	for y := 0; y < test.h; y += tileSide {
		for x := 0; x < test.w; x += tileSide {
			var sum, squares, n float64
			for v := y; v < min(y+tileSide, test.h); v++ {
				for u := x; u < min(x+tileSide, test.w); u++ {
					i := v*test.w + u
					d := t.squared(i, test) - letWorse*letWorse*t.squared(i, than)
					sum, squares, n = sum+d, squares+d*d, n+1
				}
			}
			all++
			if mean := sum / n; mean > max(unseen*unseen, surelyOff*math.Sqrt((squares/n-mean*mean)/n)) {
				worse++
			}
		}
	}
	return worse, all
}
