package deliver

import (
	"maps"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/passes"
	"amberproof/internal/job"
)

var compressions = map[string]imageio.Compression{
	"none": imageio.NoCompression, "rle": imageio.RLE, "zips": imageio.ZIPS, "zip": imageio.ZIP, "piz": imageio.PIZ,
}

// parts lays passes out as one file: as layers of one part, or of several parts, one a pass.
func parts(f *film.Film, list []*passes.Pass, t *job.Ticket, m *Manifest) []*imageio.EXR {
	if t.Output.Layers != "multipart" || len(list) == 1 {
		return []*imageio.EXR{exr(f, list, t, m)}
	}
	var out []*imageio.EXR
	for _, p := range list {
		e := exr(f, []*passes.Pass{p}, t, m)
		e.Name = p.Key
		out = append(out, e)
	}
	return out
}

// exr lays passes out as the channels of one part. A part of a single pass
// that is light names its channels plainly, so that any viewer shows it.
func exr(f *film.Film, list []*passes.Pass, t *job.Ticket, m *Manifest) *imageio.EXR {
	primaries := colour.Rec709
	if t.Output.Primaries == "acescg" {
		primaries = colour.AP1
	}
	e := &imageio.EXR{
		Window: f.Window, Chromaticities: primaries, Compression: compressions[t.Output.Compression],
		Text: map[string]string{
			"software": m.Software, "fingerprint": m.Fingerprint, "view": t.View.Name, "scene": m.Resolved.Scene.Name,
		},
	}
	e.Display.Max = t.Size()
	for _, p := range list {
		names := p.Channels()
		switch {
		case len(list) > 1 || p.Kind == passes.IDs: // readers find IDs by their layers' names
		case len(names) >= 3:
			names = []string{"R", "G", "B", "A"}[:len(names)]
		case p.Kind == passes.Depth:
			names = []string{"Z"}
		case p.Kind == passes.Motion:
			names = []string{"X", "Y"}
		default:
			names = []string{"Y"}
		}
		typ := imageio.Half
		// Depth in half would have steps of millimetres within a metre, long ways
		// steps of a quarter of a pixel, and IDs are all 32 bits of a float.
		if t.Output.Depth == "float" || p.Kind == passes.Depth || p.Kind == passes.Motion || p.Kind == passes.IDs {
			typ = imageio.Float
		}
		planes := p.Planes(f)
		if !p.Data() && primaries != colour.Rec709 {
			convert(planes, primaries)
		}
		for c, plane := range planes {
			e.Channels = append(e.Channels, imageio.Channel{Name: names[c], Type: typ, Data: plane})
		}
		maps.Copy(e.Text, p.Metadata())
	}
	return e
}

// convert brings planes of light from Rec.709 to other primaries.
func convert(planes [][]float32, to colour.Primaries) {
	m, ok := colour.Between(colour.Rec709, to)
	if !ok {
		panic("deliver: primaries without a matrix") // both are constants
	}
	for i := range planes[0] {
		c := m.Apply(geom.V(planes[0][i], planes[1][i], planes[2][i]))
		planes[0][i], planes[1][i], planes[2][i] = c.X, c.Y, c.Z
	}
}
