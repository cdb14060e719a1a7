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
	"amberproof/core/geom"
	"amberproof/core/imageio"
)

// render has a binary render a ticket and returns its beauty, scene-linear, and the
// processor seconds that took, from the reading of the scene to the written file.
func render(bin, dir, scene string, ticket []byte, threads int) (p *hdr, seconds float64, err error) {
	out, err := os.MkdirTemp(dir, "out")
	if err != nil {
		return nil, 0, err
	}
	defer os.RemoveAll(out)
	file := filepath.Join(dir, "ticket.json")
	if err := os.WriteFile(file, ticket, 0o600); err != nil {
		return nil, 0, err
	}
	files := filepath.Join(out, "files")
	c := exec.Command(bin, "render", "--scene", filepath.Join(dir, scene), "--ticket", file, "--out", files, "--threads", fmt.Sprint(threads))
	var said strings.Builder
	c.Stderr = &said
	if err := c.Run(); err != nil {
		return nil, 0, fmt.Errorf("%s: %w\n%s", bin, err, said.String())
	}
	seconds = (c.ProcessState.UserTime() + c.ProcessState.SystemTime()).Seconds()
	found := ""
	err = filepath.WalkDir(files, func(path string, _ fs.DirEntry, err error) error {
		if strings.HasSuffix(path, ".exr") {
			found = path
		}
		return err
	})
	if err != nil {
		return nil, 0, err
	}
	raw, err := os.ReadFile(found)
	if err != nil {
		return nil, 0, err
	}
	p, err = beauty(raw)
	return p, seconds, err
}

// hdr is a scene-linear picture.
type hdr struct {
	w, h int
	px   []geom.Vec3
}

func beauty(raw []byte) (*hdr, error) {
	e, err := imageio.ReadEXR(raw, imageio.DefaultLimits)
	if err != nil {
		return nil, err
	}
	r, g, b := e.Channel("R"), e.Channel("G"), e.Channel("B")
	if r == nil || g == nil || b == nil {
		return nil, errors.New("the file has no channels R, G and B")
	}
	p := &hdr{e.Window.Dx(), e.Window.Dy(), make([]geom.Vec3, len(r.Data))}
	for i := range p.px {
		p.px[i] = geom.V(r.Data[i], g.Data[i], b.Data[i])
	}
	return p, nil
}

// reference is the picture that others are held against: rendered once with many
// samples, and kept in a folder under what it is of.
func reference(bin, dir, keep string, s *setup, side, samples, threads int) (*hdr, error) {
	ticket, err := s.ticket(bin, dir, side, samples, seedOfTruth)
	if err != nil {
		return nil, err
	}
	scene, err := os.ReadFile(filepath.Join(dir, s.file))
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(append(append([]byte{}, ticket...), scene...))
	path := filepath.Join(keep, hex.EncodeToString(sum[:12])+".json")
	if raw, err := os.ReadFile(path); err == nil {
		p := &hdr{w: side, h: side}
		return p, json.Unmarshal(raw, &p.px)
	}
	p, seconds, err := render(bin, dir, s.file, ticket, threads)
	if err != nil {
		return nil, err
	}
	fmt.Fprintf(os.Stderr, "%s: reference of %d samples in %.0f processor seconds\n", s.name, samples, seconds)
	raw, err := json.Marshal(p.px)
	if err != nil {
		return nil, err
	}
	return p, errors.Join(os.MkdirAll(keep, 0o755), os.WriteFile(path, raw, 0o644))
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
// measured (docs/rendering.md).
func rms(reference, test *hdr) float64 {
	look := colour.Transform("filmic")
	tone := func(c geom.Vec3) float64 { return float64(colour.EncodeSRGB(look.Tone(colour.Luminance(c)))) }
	var sum float64
	for i := range reference.px {
		d := tone(reference.px[i]) - tone(test.px[i])
		sum += d * d
	}
	return 100 * math.Sqrt(sum/float64(len(reference.px)))
}
