package preflight

import (
	"context"
	"fmt"
	"runtime"

	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/core/trace"
)

// Lit is a scene as it is lit: small pictures of it, from some of its views.
type Lit struct {
	Subject
	Worlds   []*trace.World // by view, from the first; their layout is LitLayout
	Exposure float64        // EV
	Display  colour.Transform
}

// LitLayout is the layout of pictures that are checked: each light by itself.
func LitLayout(lights int) film.Layout {
	var planes []film.Plane
	for i := range lights {
		planes = append(planes, film.ElementPlane(i, false))
	}
	return film.NewLayout(false, planes...)
}

const (
	// LitSide is how many pixels a picture to be checked has along each side.
	LitSide = 48
	// litSamples is how many samples each of its pixels gets.
	litSamples = 16

	faintest  = 0.1  // percent of all light, below which a light does nothing
	sole      = 90   // percent of the product's light, above which others do nothing beside it
	mostBlown = 1    // percent of the product
	darkest   = 5    // percent of display white, in the mean of the product
	black     = 0.02 // of display white, below which what a mirror shows is black
	mostBlack = 50   // percent of a part
	leastEdge = 3    // percent of a mirror that show the backdrop, and what lies past it
	// flatMirror is how far what a flat mirror shows may be from its middle, as a cosine.
	flatMirror = 0.9
	// leastSeen is how many pixels a part must have for its mirror to be judged.
	leastSeen = 12
)

// tally is what the pictures of all views add up to.
type tally struct {
	whole, product []float64 // luminance by light, over all that is seen and over the product
}

// CheckLit finds what is wrong with the light of a scene.
func CheckLit(ctx context.Context, of *Lit) ([]Finding, error) {
	if len(of.Worlds) == 0 {
		return nil, nil
	}
	around := of.Scene.Around(of.Lamp)
	names := of.Worlds[0].Elements()
	sum := tally{make([]float64, len(names)), make([]float64, len(names))}
	var out []Finding
	for view, w := range of.Worlds {
		f := film.New(w.Options().Window, w.Options().Layout)
		if err := trace.Expose(ctx, w, f, 0, litSamples, runtime.GOMAXPROCS(0)); err != nil {
			return nil, err
		}
		found, err := of.look(ctx, view, f, around, &sum)
		if err != nil {
			return nil, err
		}
		out = append(out, found...)
	}
	return append(out, of.shares(names, &sum)...), nil
}

// seenOf is a mirror as a view shows it: in how many pixels, and what it shows there.
type seenOf struct {
	pixels   int
	dark     int // nothing, and that is black
	past     int // nothing
	backdrop int // what stands around the product
	ways     []geom.Vec3
}

// add adds what a pixel shows; around are the parts that stand around the product.
func (m *seenOf) add(shows *trace.Mirrored, around []bool, gain float32) {
	m.pixels++
	m.ways = append(m.ways, shows.Way)
	switch {
	case shows.Shows >= 0 && around[shows.Shows]:
		m.backdrop++
	case shows.Shows < 0:
		m.past++
		if colour.Luminance(shows.Light)*gain < black {
			m.dark++
		}
	}
}

// flat tells whether a mirror shows about one direction only. One that is round shows all
// there is around it, beyond any backdrop.
func (m *seenOf) flat() bool {
	var sum geom.Vec3
	for _, w := range m.ways {
		sum = sum.Add(w)
	}
	mean := sum.Unit()
	for _, w := range m.ways {
		if w.Dot(mean) < flatMirror {
			return false
		}
	}
	return true
}

// look reads a picture: what it adds to the tally, and what is wrong with it.
func (of *Lit) look(ctx context.Context, view int, f *film.Film, around []bool, sum *tally) (out []Finding, err error) {
	w, name := of.Worlds[view], of.Views[view].Name
	gain := colour.Gain(of.Exposure)
	t := w.NewTracer()
	var pixels, blown int
	var level float64
	mirrors := map[int]*seenOf{}
	for y := f.Window.Min.Y; y < f.Window.Max.Y; y++ {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		for x := f.Window.Min.X; x < f.Window.Max.X; x++ {
			part, ok := t.At(x, y, true)
			sums, i := f.At(x, y)
			product := ok && !around[part] && !of.glows(part)
			lightOf(sums, i, f, func(element int, light float64) {
				if ok {
					sum.whole[element] += light
				}
				if product {
					sum.product[element] += light
				}
			})
			if !product {
				continue
			}
			c, _ := sums.Light(i)
			pixels++
			level += float64(colour.Luminance(c.Scale(gain)))
			shows, mirror := t.Mirror(x, y)
			if !mirror { // which may well show a lamp
				if of.Display.Display(c, gain).Max() >= 1-0.5/255 {
					blown++
				}
			} else {
				m := mirrors[shows.Part]
				if m == nil {
					m = &seenOf{}
					mirrors[shows.Part] = m
				}
				m.add(&shows, around, gain)
			}
		}
	}
	if pixels == 0 {
		return nil, nil
	}
	box := of.Scene.Focus(of.Lamp)
	if share := 100 * float64(blown) / float64(pixels); share > mostBlown {
		out = append(out, Finding{
			Check: Clips, Part: -1, Other: -1, View: view, Value: share, Unit: "%", Sure: Likely, Where: box,
			Says: fmt.Sprintf("In %s, %.2g %% of the product is blown out.", name, share),
		})
	}
	if mean := 100 * level / float64(pixels); mean < darkest {
		out = append(out, Finding{
			Check: Dark, Part: -1, Other: -1, View: view, Value: mean, Unit: "%", Sure: Likely, Where: box,
			Says: fmt.Sprintf("In %s, the product is at %.2g %% of white in the mean: too dark to be judged.", name, mean),
		})
	}
	return append(out, of.mirrored(view, mirrors)...), nil
}

// mirrored tells of the parts, by number, that mirror what they should not.
func (of *Lit) mirrored(view int, mirrors map[int]*seenOf) (out []Finding) {
	name := of.Views[view].Name
	for part := range of.Scene.Parts {
		m := mirrors[part]
		if m == nil || m.pixels < leastSeen {
			continue
		}
		past, shown := 100*float64(m.past)/float64(m.pixels), 100*float64(m.backdrop)/float64(m.pixels)
		if min(past, shown) > leastEdge && m.flat() {
			out = append(out, Finding{
				Check: Edge, Part: part, Other: -1, View: view, Value: past, Unit: "%", Sure: Perhaps, Where: of.Scene.PartBounds(part),
				Says: fmt.Sprintf("In %s, %s mirrors the edge of the backdrop: %.0f %% of what it shows is that, and %.0f %% what lies past it.",
					name, of.Scene.Parts[part].Name, shown, past),
			})
		}
		if share := 100 * float64(m.dark) / float64(m.pixels); share > mostBlack {
			out = append(out, Finding{
				Check: Mirrors, Part: part, Other: -1, View: view, Value: share, Unit: "%", Sure: Likely, Where: of.Scene.PartBounds(part),
				Says: fmt.Sprintf("%s mirrors nothing: in %s, %.0f %% of what it shows of its surroundings is black.", of.Scene.Parts[part].Name, name, share),
			})
		}
	}
	return out
}

func (of *Lit) glows(part int) bool {
	f := of.Scene.FinishOf(part)
	return f.Glowing()
}

// lightOf tells the luminance of each light in a pixel.
func lightOf(sums *film.Sums, i int, f *film.Film, each func(element int, light float64)) {
	px := sums.Pixel(i)
	if !(px[film.Weight] > 0) {
		return
	}
	for k := 0; ; k++ {
		at, ok := f.Layout.Place(film.ElementName(k))
		if !ok {
			return
		}
		each(k, float64(colour.Luminance(geom.V(px[at], px[at+1], px[at+2])))/float64(px[film.Weight]))
	}
}

// shares finds lights that do nothing, and one beside which no other does.
func (of *Lit) shares(names []string, sum *tally) (out []Finding) {
	lamps := map[string]trace.Lamp{}
	for _, l := range trace.LampsOf(of.Scene) {
		lamps[l.Name] = l
	}
	var whole, product float64
	sources := 0
	for i, n := range names {
		whole, product = whole+sum.whole[i], product+sum.product[i]
		if _, lamp := lamps[n]; lamp || n == trace.SurroundName {
			sources++
		}
	}
	for i, n := range names {
		lamp, is := lamps[n]
		if !is && n != trace.SurroundName {
			continue // what glows of the product, or is behind it
		}
		where := of.Scene.Focus(of.Lamp)
		part := -1
		if is {
			part = lamp.Part
			where = lampBox(of.Scene, &lamp)
		}
		if share := 100 * sum.whole[i] / max(whole, 1e-30); is && whole > 0 && share < faintest {
			out = append(out, Finding{
				Check: Faint, Part: part, Other: -1, View: -1, Value: share, Unit: "%", Sure: Perhaps, Where: where,
				Says: fmt.Sprintf("%s gives %.2g %% of the light in all views: it is too weak, or something blocks it.", n, share),
			})
		}
		if share := 100 * sum.product[i] / max(product, 1e-30); sources > 1 && product > 0 && share > sole {
			out = append(out, Finding{
				Check: Sole, Part: part, Other: -1, View: -1, Value: share, Unit: "%", Sure: Perhaps, Where: where,
				Says: fmt.Sprintf("%s gives %.0f %% of the light on the product: the other lights make no visible difference.", n, share),
			})
		}
	}
	return out
}

// lampBox is where a lamp stands.
func lampBox(s *scene.Scene, l *trace.Lamp) geom.Box {
	if l.Part >= 0 {
		return s.PartBounds(l.Part)
	}
	at := s.Objects[s.Lights[l.Light].Object].World.Origin()
	return geom.EmptyBox().Extend(at)
}
