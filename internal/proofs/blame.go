package proofs

import (
	"context"
	"image"
	"math"

	"amberproof/core/film"
	"amberproof/core/finish"
	"amberproof/core/noise"
	"amberproof/internal/fault"
)

// Blame says what the noise of an area of the picture comes from, before noise is taken out.
type Blame struct {
	Noise   float64        `json:"noise" doc:"Root mean square of the standard error of what is shown, percent of display white; 0 where it cannot be told yet"`
	Lights  []Blamed       `json:"lights" nullable:"false" doc:"The largest first; empty where the film does not keep lights apart by halves"`
	Sources []BlamedSource `json:"sources" nullable:"false" doc:"By the way light came, the largest first; empty where the film keeps none. Each is known from some of the pixels, so that they add up to 100 within their errors"`
	Parts   []Blamed       `json:"parts" nullable:"false" doc:"By what is seen there, the largest first; the last may stand for all others"`
}

// Blamed is what share of the noise's variance one source brings.
type Blamed struct {
	Name  string  `json:"name" doc:"Of a light or a part; empty for what neither explains"`
	Count int     `json:"count" doc:"How many it stands for: 1, or those that are not listed"`
	Share float64 `json:"share" doc:"Percent of the variance; below 0 within the error, or where a source takes away what another adds"`
	Error float64 `json:"error" doc:"Its standard error, percent"`
}

// BlamedSource is what share of the noise's variance light of one way brings.
type BlamedSource struct {
	Way   string  `json:"way" enum:"looked,direct,diffuse,glossy,clear" doc:"looked: seen directly; direct: from a light straight onto the first surface; else bounced, by how the first surface sends it on"`
	Light string  `json:"light" doc:"Of direct light, its light; else empty"`
	Share float64 `json:"share" doc:"Percent of the variance; below 0 within the error"`
	Error float64 `json:"error" doc:"Its standard error, percent"`
}

// ways are the film's sources that are no light's.
var ways = map[film.Source]string{film.SourceLooked: "looked", film.SourceMatte: "diffuse", film.SourceGloss: "glossy", film.SourceClear: "clear"}

// blamedSources names sources, the largest first, and leaves out those that bring nothing.
func blamedSources(all []noise.Share, elements []string) []BlamedSource {
	noise.Largest(all)
	out := []BlamedSource{}
	for _, v := range all {
		if v.Share == 0 && v.Error == 0 {
			continue
		}
		b := BlamedSource{Way: "direct", Share: 100 * v.Share, Error: 100 * v.Error}
		if e, ok := film.Source(v.Of).Element(); !ok {
			b.Way = ways[film.Source(v.Of)]
		} else if e < len(elements) {
			b.Light = elements[e]
		}
		out = append(out, b)
	}
	return out
}

// mostBlamed is how many sources are listed by name.
const mostBlamed = 12

// Blame splits the noise of an area of the frame, or with the zero one of all that is rendered,
// looked at in a way. Open asked whether p may be seen.
func (s *Service) Blame(ctx context.Context, p *Proof, area image.Rectangle, look finish.Finish) (Blame, error) {
	if area == (image.Rectangle{}) {
		area = p.Film.Window
	}
	if area = area.Intersect(p.Film.Window); area.Empty() {
		return Blame{}, fault.Bad("The area is empty or lies outside the picture, which is %d x %d", p.Film.Window.Dx(), p.Film.Window.Dy())
	}
	var b noise.Blame
	err := s.inTurn(ctx, false, func() error {
		b = noise.View{Exposure: look.Exposure, Transform: look.Transform}.Blame(p.Film, area)
		p.worn.Do(p.dress)
		return nil
	})
	if err != nil {
		return Blame{}, err
	}
	return Blame{
		Noise:   b.Noise,
		Lights:  blamed(b.Lights, p.Elements),
		Sources: blamedSources(b.Sources, p.Elements),
		Parts:   blamed(b.Parts, p.keys),
	}, nil
}

// blamed names sources, the largest first, and has those that are small stand together.
func blamed(all []noise.Share, called []string) []Blamed {
	noise.Largest(all)
	out := []Blamed{}
	others := Blamed{}
	for _, v := range all {
		b := Blamed{Count: 1, Share: 100 * v.Share, Error: 100 * v.Error}
		switch {
		case v.Of == noise.Rest && math.Abs(v.Share) < leastRest:
			continue
		case v.Of != noise.Rest && len(out) >= mostBlamed:
			others.Count, others.Share, others.Error = others.Count+1, others.Share+b.Share, math.Hypot(others.Error, b.Error)
			continue
		case v.Of >= 0 && v.Of < len(called):
			b.Name = called[v.Of]
		}
		out = append(out, b)
	}
	if others.Count > 0 {
		out = append(out, others)
	}
	return out
}

// leastRest is what share is told that no source explains: less is rounding.
const leastRest = 0.001
