// Package importer reads product scenes from open 3D files: glTF 2.0 (.gltf
// with its files, .glb) and Wavefront OBJ with MTL.
//
// A file that is broken or asks for something required and unsupported is
// refused with an error that wraps ErrRefused and says what to do; what is
// merely left out is listed in Scene.LeftOut. Nothing panics on bad input.
package importer

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"image/draw"
	_ "image/jpeg" // textures
	_ "image/png"  // textures
	"io"
	"path"
	"sort"
	"strings"

	"amberproof/core/scene"
)

// ErrRefused is wrapped by every error about the contents of a file.
var ErrRefused = errors.New("the scene cannot be imported")

func refuse(format string, a ...any) error {
	return fmt.Errorf("%w: "+format, append([]any{ErrRefused}, a...)...)
}

// Limits bound what is taken. Counts are after instancing.
type Limits struct {
	Bytes     int64 // of all files together, unpacked
	Files     int
	Triangles int
	Objects   int
	Texels    int // of all pictures together
	Depth     int // of the object tree
}

// DefaultLimits suit one product scene on one machine.
var DefaultLimits = Limits{Bytes: 2 << 30, Files: 2000, Triangles: scene.MostTriangles, Objects: 200_000, Texels: 1 << 29, Depth: 256}

// Bundle is a set of files by name; names use forward slashes.
type Bundle map[string][]byte

// AddZip unpacks an archive into the bundle.
func (b Bundle) AddZip(data []byte, lim Limits) error {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return refuse("the archive is damaged (%v); pack it again", err)
	}
	if len(z.File) > lim.Files {
		return refuse("the archive holds %d files, more than the limit of %d", len(z.File), lim.Files)
	}
	total := b.size()
	for _, f := range z.File {
		if strings.HasSuffix(f.Name, "/") {
			continue
		}
		r, err := f.Open()
		if err != nil {
			return refuse("%q in the archive: %v", f.Name, err)
		}
		// The size in the directory may lie: what counts is what comes out.
		data, err := io.ReadAll(io.LimitReader(r, lim.Bytes-total+1))
		_ = r.Close()
		if err != nil {
			return refuse("%q in the archive: %v", f.Name, err)
		}
		if total += int64(len(data)); total > lim.Bytes {
			return refuse("the archive unpacks to more than %d MB", lim.Bytes>>20)
		}
		b[path.Clean(strings.ReplaceAll(f.Name, "\\", "/"))] = data
	}
	return nil
}

func (b Bundle) size() (n int64) {
	for _, d := range b {
		n += int64(len(d))
	}
	return n
}

// find looks a file up as named from the main file, then by its bare name.
func (b Bundle) find(main, name string) ([]byte, bool) {
	name = strings.ReplaceAll(name, "\\", "/")
	if d, ok := b[path.Join(path.Dir(main), name)]; ok {
		return d, true
	}
	for n, d := range b {
		if strings.EqualFold(path.Base(n), path.Base(name)) {
			return d, true
		}
	}
	return nil, false
}

// Main names the one scene file of a bundle.
func (b Bundle) Main() (string, error) {
	var found, all []string
	for n := range b {
		all = append(all, n)
		switch strings.ToLower(path.Ext(n)) {
		case ".glb", ".gltf", ".obj":
			if !strings.HasPrefix(path.Base(n), ".") {
				found = append(found, n)
			}
		}
	}
	sort.Strings(found)
	sort.Strings(all)
	switch {
	case len(found) == 1:
		return found[0], nil
	case len(found) > 1:
		return "", refuse("there are several scene files (%s); give one at a time", strings.Join(found, ", "))
	}
	for _, n := range all {
		switch e := strings.ToLower(path.Ext(n)); e {
		case ".usd", ".usda", ".usdc", ".usdz", ".fbx", ".abc", ".dae", ".stl", ".ply", ".blend", ".max", ".c4d", ".ma", ".mb":
			return "", refuse("%s files are not supported; export the scene as .glb, .gltf or .obj", e)
		}
	}
	return "", refuse("there is no .glb, .gltf or .obj among the files (%s)", strings.Join(all[:min(len(all), 5)], ", "))
}

// Import reads the scene of a bundle.
func Import(b Bundle, lim Limits) (*scene.Scene, error) {
	if n := b.size(); n > lim.Bytes {
		return nil, refuse("the files have %d MB together, more than the limit of %d", n>>20, lim.Bytes>>20)
	}
	main, err := b.Main()
	if err != nil {
		return nil, err
	}
	var s *scene.Scene
	if strings.ToLower(path.Ext(main)) == ".obj" {
		s, err = readOBJ(b, main, lim)
	} else {
		s, err = readGLTF(b, main, lim)
	}
	if err != nil {
		return nil, err
	}
	if err := s.Check(); err != nil {
		return nil, refuse("%v", err)
	}
	for i := range s.Meshes {
		if m := &s.Meshes[i]; m.Finish >= 0 && m.Finish < len(s.Finishes) {
			if set, ok := s.Finishes[m.Finish].TangentSet(); ok {
				m.AddTangents(set)
			}
		}
	}
	if s.Triangles() == 0 {
		why := ""
		if len(s.LeftOut) > 0 {
			why = fmt.Sprintf(" (%s: %s)", s.LeftOut[0].Where, s.LeftOut[0].What)
		}
		return nil, refuse("%q holds no triangles%s", main, why)
	}
	if n := s.Triangles(); n > lim.Triangles {
		return nil, refuse("%d triangles are more than the limit of %d", n, lim.Triangles)
	}
	if i := s.FarOut(); i >= 0 {
		return nil, refuse("part %q lies or reaches absurdly far out (over %g m); check its transform and units", s.Parts[i].Name, float64(scene.Reach))
	}
	return s, nil
}

// reader is what both formats share.
type reader struct {
	s      scene.Scene
	lim    Limits
	texels int
}

func (r *reader) note(where, format string, a ...any) {
	n := scene.Note{Where: where, What: fmt.Sprintf(format, a...)}
	for _, have := range r.s.LeftOut {
		if have == n {
			return
		}
	}
	if len(r.s.LeftOut) < 1000 {
		r.s.LeftOut = append(r.s.LeftOut, n)
	}
}

// picture decodes a PNG or JPEG and returns its index, or -1 with a note.
func (r *reader) picture(name string, data []byte) int {
	cfg, kind, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		r.note(name, "the picture is not a readable PNG or JPEG; the finish goes without it")
		return -1
	}
	if cfg.Width < 1 || cfg.Height < 1 || cfg.Width > 1<<15 || cfg.Height > 1<<15 || r.texels+cfg.Width*cfg.Height > r.lim.Texels {
		r.note(name, "the picture of %d x %d pixels is beyond the limit; the finish goes without it", cfg.Width, cfg.Height)
		return -1
	}
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		r.note(name, "the %s picture is damaged; the finish goes without it", strings.ToUpper(kind))
		return -1
	}
	r.texels += cfg.Width * cfg.Height
	out, ok := img.(*image.NRGBA)
	if !ok {
		out = image.NewNRGBA(image.Rect(0, 0, cfg.Width, cfg.Height))
		draw.Draw(out, out.Rect, img, img.Bounds().Min, draw.Src)
	}
	pix := make([]byte, 0, cfg.Width*cfg.Height*4)
	for y := 0; y < cfg.Height; y++ {
		pix = append(pix, out.Pix[y*out.Stride:y*out.Stride+cfg.Width*4]...)
	}
	r.s.Images = append(r.s.Images, scene.Image{Name: name, W: cfg.Width, H: cfg.Height, Pix: pix})
	return len(r.s.Images) - 1
}

// Checksum is a SHA-256 over the names and contents of all files, in hex. A
// bundle of one file has the checksum of that file's contents.
func (b Bundle) Checksum() string {
	names := make([]string, 0, len(b))
	for n := range b {
		names = append(names, n)
	}
	sort.Strings(names)
	h := sha256.New()
	for _, n := range names {
		if len(names) > 1 {
			sum := sha256.Sum256(b[n])
			fmt.Fprintf(h, "%s\n%x\n", n, sum)
		} else {
			h.Write(b[n])
		}
	}
	return hex.EncodeToString(h.Sum(nil))
}
