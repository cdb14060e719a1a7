// Package importer reads product scenes from open 3D files: glTF 2.0 (.gltf
// with its files, .glb), Wavefront OBJ with MTL, and single parts from STL and PLY.
//
// A file that is broken or asks for something required and unsupported is
// refused with an error that wraps ErrRefused and says what to do; what is
// merely left out is listed in Scene.LeftOut. Nothing panics on bad input.
package importer

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"image/draw"
	_ "image/jpeg" // textures
	_ "image/png"  // textures
	"io"
	"maps"
	"math"
	"path"
	"slices"
	"sort"
	"strings"

	_ "golang.org/x/image/webp" // textures

	"amberproof/core/names"
	"amberproof/core/parallel"
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
	Lights    int
	Depth     int   // of the object tree
	Memory    int64 // bytes the scene may take while it is read, see Budget
}

// DefaultLimits suit one product scene on one machine.
var DefaultLimits = Limits{Bytes: 2 << 30, Files: 2000, Triangles: scene.MostTriangles, Objects: 200_000, Texels: 1 << 29,
	Lights: 2000, Depth: 256, Memory: 8 << 30}

// What a scene may take beside its files: the least is enough for what a few
// kilobytes can honestly ask for (a large picture of one colour), and no honest
// file grows by more than the factor.
const (
	leastBudget = 512 << 20
	growth      = 40
)

// Budget is how many bytes reading files of so many bytes may take. It is
// counted before anything is allocated, so that a small file cannot grow to more.
func (l Limits) Budget(files int64) int64 { return min(l.Memory, leastBudget+growth*files) }

// Packed are the limits for files that came in so many bytes, archives packed: what
// they hold may take no more than those bytes could honestly ask for.
func (l Limits) Packed(bytes int64) Limits {
	l.Memory = l.Budget(bytes)
	return l
}

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
	// What the directory says is held against the limits first, so that nothing is
	// unpacked of an archive that is too large; what then comes out may be no more.
	total := b.size()
	for _, f := range z.File {
		if f.UncompressedSize64 > uint64(lim.Bytes) || total+int64(f.UncompressedSize64) > lim.Bytes {
			return refuse("the archive unpacks to more than %d MB", lim.Bytes>>20)
		}
		total += int64(f.UncompressedSize64)
	}
	if most := lim.Budget(int64(len(data))); total > most {
		return refuse("the archive of %d kB unpacks to %d MB, which no scene does; pack it again", len(data)>>10, total>>20)
	}
	for _, f := range z.File {
		if strings.HasSuffix(f.Name, "/") {
			continue
		}
		out, err := unpack(f)
		if err != nil {
			return refuse("%q in the archive: %v", f.Name, err)
		}
		b[path.Clean(strings.ReplaceAll(f.Name, "\\", "/"))] = out
	}
	return nil
}

// unpack reads a file of an archive; one that is longer than the directory says
// is damaged.
func unpack(f *zip.File) ([]byte, error) {
	r, err := f.Open()
	if err != nil {
		return nil, err
	}
	// The size was budgeted; memory that is not written to is not taken.
	out := make([]byte, f.UncompressedSize64)
	_, err = io.ReadFull(r, out)
	if err == nil {
		if n, _ := r.Read(make([]byte, 1)); n > 0 {
			err = zip.ErrFormat
		}
	}
	err = errors.Join(err, r.Close())
	return out, err
}

func (b Bundle) size() (n int64) {
	for _, d := range b {
		n += int64(len(d))
	}
	return n
}

// find looks a file up as named from the main file, then by its bare name, as
// file systems that do not tell case apart would. Of several that fit, the one
// nearest to the main file is taken, and of those the first in the alphabet, so
// that the same files always give the same scene.
func (b Bundle) find(main, name string) ([]byte, bool) {
	name = strings.ReplaceAll(name, "\\", "/")
	want := path.Join(path.Dir(main), name)
	if d, ok := b[want]; ok {
		return d, true
	}
	best, rank := "", [2]int{math.MaxInt, 0}
	for n := range b {
		r := [2]int{2, strings.Count(n, "/")}
		switch {
		case names.Fold(n) == names.Fold(want):
			r[0] = 0
		case names.Fold(path.Base(n)) != names.Fold(path.Base(name)):
			continue
		case path.Dir(n) == path.Dir(main):
			r[0] = 1
		}
		if c := slices.Compare(r[:], rank[:]); c < 0 || c == 0 && n < best {
			best, rank = n, r
		}
	}
	return b[best], rank[0] != math.MaxInt
}

// Main names the one scene file of a bundle.
func (b Bundle) Main() (string, error) {
	var found, all []string
	for n := range b {
		all = append(all, n)
		switch strings.ToLower(path.Ext(n)) {
		case ".glb", ".gltf", ".obj", ".stl", ".ply":
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
	return "", refuse("there is no scene of a known type among the files (%s); scenes come as .glb, .gltf or .obj, single parts as .stl or .ply",
		strings.Join(all[:min(len(all), 5)], ", "))
}

// Import reads the scene of a bundle. It gives up with the context's error.
func Import(ctx context.Context, b Bundle, lim Limits) (s *scene.Scene, err error) {
	defer parallel.Catch(&err) // where the context ends amid a mesh
	if n := b.size(); n > lim.Bytes {
		return nil, refuse("the files have %d MB together, more than the limit of %d", n>>20, lim.Bytes>>20)
	}
	main, err := b.Main()
	if err != nil {
		return nil, err
	}
	switch strings.ToLower(path.Ext(main)) {
	case ".obj":
		s, err = readOBJ(ctx, b, main, lim)
	case ".stl":
		s, err = readSTL(ctx, b, main, lim)
	case ".ply":
		s, err = readPLY(ctx, b, main, lim)
	default:
		s, err = readGLTF(ctx, b, main, lim)
	}
	if err != nil {
		return nil, err
	}
	if err := s.Check(); err != nil {
		return nil, refuse("%v", err)
	}
	for i := range s.Meshes {
		tell(ctx, Finer, i, len(s.Meshes))
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if m := &s.Meshes[i]; m.Finish >= 0 && m.Finish < len(s.Finishes) {
			if set, ok := s.Finishes[m.Finish].TangentSet(); ok {
				m.AddTangents(ctx, set)
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
	s.Memo = &scene.Memo{}
	return s, nil
}

// reader is what all formats share.
type reader struct {
	s      scene.Scene
	lim    Limits
	texels int
	left   int64 // of the byte budget
}

func newReader(b Bundle, lim Limits) reader { return reader{lim: lim, left: lim.Budget(b.size())} }

// take counts bytes that are about to be allocated.
func (r *reader) take(n int, each int64) error {
	if n < 0 || int64(n) > r.left/each {
		return refuse("the scene would take far more memory than files of this size should; export it again, with less in it")
	}
	r.left -= int64(n) * each
	return nil
}

// mostName is how many bytes a name out of a file may have.
const mostName = 200

// nameFrom makes proper text of a name out of a file.
func nameFrom(s string) string { return names.Cut(names.Text(s), mostName) }

// mostNotes bounds the list of what is left out.
const mostNotes = 1000

// note says once of a place that something of it is left out.
func (r *reader) note(where, format string, a ...any) {
	if len(r.s.LeftOut) > mostNotes {
		return
	}
	if len(r.s.LeftOut) == mostNotes {
		where, format, a = "the file", "there is more than is listed here", nil
	}
	n := scene.Note{Where: where, What: fmt.Sprintf(format, a...)}
	for _, have := range r.s.LeftOut {
		if have == n {
			return
		}
	}
	r.s.LeftOut = append(r.s.LeftOut, n)
}

// picture decodes a PNG, JPEG or WebP and returns its index, or -1 with a note.
func (r *reader) picture(name string, data []byte) int {
	cfg, kind, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		r.note(name, "the picture is not a readable PNG, JPEG or WebP; the finish goes without it")
		return -1
	}
	if cfg.Width < 1 || cfg.Height < 1 || cfg.Width > 1<<15 || cfg.Height > 1<<15 || r.texels+cfg.Width*cfg.Height > r.lim.Texels {
		r.note(name, "the picture of %d x %d pixels is beyond the limit; the finish goes without it", cfg.Width, cfg.Height)
		return -1
	}
	// Decoded at up to eight bytes a texel, and kept at four.
	if r.take(cfg.Width*cfg.Height, 12) != nil {
		r.note(name, "the picture of %d x %d pixels would take more memory than files of this size should; the finish goes without it", cfg.Width, cfg.Height)
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
	// Both the decoder and what is made above have rows without gaps.
	r.s.Images = append(r.s.Images, scene.Image{Name: name, W: cfg.Width, H: cfg.Height, Pix: out.Pix[:cfg.Width*cfg.Height*4]})
	return len(r.s.Images) - 1
}

// Picture decodes a PNG, JPEG or WebP by itself, within the limits of a file of its size.
func Picture(name string, data []byte, lim Limits) (*scene.Image, error) {
	r := newReader(Bundle{name: data}, lim)
	if r.picture(name, data) < 0 {
		why := r.s.LeftOut[0].What
		return nil, refuse("%s", strings.TrimSuffix(why, "; the finish goes without it"))
	}
	return &r.s.Images[0], nil
}

// Checksum is a SHA-256 over the names and contents of all files, in hex. A
// bundle of one file has the checksum of that file's contents.
func (b Bundle) Checksum() string {
	all := slices.Sorted(maps.Keys(b))
	h := sha256.New()
	for _, n := range all {
		if len(all) > 1 {
			sum := sha256.Sum256(b[n])
			fmt.Fprintf(h, "%s\n%x\n", n, sum)
		} else {
			h.Write(b[n])
		}
	}
	return hex.EncodeToString(h.Sum(nil))
}
