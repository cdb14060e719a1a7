package deliver

import (
	"maps"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/imageio"
	"amberproof/core/passes"
	"amberproof/internal/ticket"
)

var compressions = map[string]imageio.Compression{
	"none": imageio.NoCompression, "rle": imageio.RLE, "zips": imageio.ZIPS, "zip": imageio.ZIP, "piz": imageio.PIZ,
}

// part is one part of a file and how many of its values were beyond a half.
type part struct {
	*imageio.EXR
	limited int
}

func exrs(list []part) []*imageio.EXR {
	out := make([]*imageio.EXR, len(list))
	for i := range list {
		out[i] = list[i].EXR
	}
	return out
}

// parts lays passes out as one file: as layers of one part, or of several parts, one a pass.
func parts(f passes.Films, list []*passes.Pass, t *ticket.Ticket, m *Manifest) []part {
	if t.Output.Layers != "multipart" || len(list) == 1 {
		return []part{exr(f, list, t, m)}
	}
	var out []part
	for _, p := range list {
		e := exr(f, []*passes.Pass{p}, t, m)
		e.Name = p.Key
		out = append(out, e)
	}
	return out
}

// exr lays passes out as the channels of one part. A part of a single pass
// that is light names its channels plainly, so that any viewer shows it. Only
// parts with light state its primaries.
func exr(f passes.Films, list []*passes.Pass, t *ticket.Ticket, m *Manifest) part {
	primaries := colour.Rec709
	if t.Output.Primaries == "acescg" {
		primaries = colour.AP1
	}
	e := part{EXR: &imageio.EXR{
		Window: t.Window(), Compression: compressions[t.Output.Compression],
		// The names are our own: some, as view, mean something else in this format.
		Text: map[string]string{
			"software": m.Software, "proofFingerprint": m.Fingerprint, "proofView": t.View.Name, "proofScene": m.Resolved.Scene.Name,
		},
	}}
	e.Display.Max = t.Size()
	for _, p := range list {
		names, typ := p.Channels(), imageio.Half
		if len(list) == 1 {
			names = p.ChannelsAlone()
		}
		if t.Output.Depth == "float" || p.NeedsFloat() {
			typ = imageio.Float
		}
		planes := p.Planes(f, e.Window)
		if !p.Data() {
			e.Chromaticities = primaries
			if primaries != colour.Rec709 {
				convert(planes, primaries)
			}
		}
		for c, plane := range planes {
			if typ == imageio.Half {
				e.limited += limit(plane)
			}
			e.Channels = append(e.Channels, imageio.Channel{Name: names[c], Type: typ, Data: plane})
		}
		maps.Copy(e.Text, p.Metadata())
	}
	return e
}

// limit brings values that would be infinite in half to the largest half, and
// counts them.
func limit(plane []float32) (n int) {
	for i, v := range plane {
		if v > imageio.LargestHalf {
			plane[i] = imageio.LargestHalf
			n++
		} else if v < -imageio.LargestHalf {
			plane[i] = -imageio.LargestHalf
			n++
		}
	}
	return n
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
