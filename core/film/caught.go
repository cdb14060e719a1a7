package film

import "amberproof/core/geom"

// A floor that catches shadows shows what is behind it, dimmed by the share of
// light that reaches it. That share is a ratio of means, so it is taken of the
// sums of a pixel and not of single samples; the film keeps both sums.

// Places of these sums within CaughtPlane.
const (
	Caught      = 0 // weight of the samples on such a floor
	Behind      = 1 // RGB of what is seen behind it
	BehindAlpha = 4
	Lit         = 5 // the light that reaches it
	Unlit       = 6 // the light that would, if nothing were in the way
	CaughtSums  = 7
)

// CaughtPlane keeps what floors that catch shadows need. With it, beauty, alpha and
// halves are those over what is behind such a floor.
var CaughtPlane = Plane{Name: "caught", Values: CaughtSums, Halves: true, Of: CaughtLight}

// catches returns what a pixel's sums hold of a floor that catches shadows.
func (l *Layout) catches(px []float32) (sums []float32, ok bool) { return px[l.catch:], l.catch > 0 }

// reaches is the share of light that reaches a floor: 1 is without shadow.
func reaches(c []float32) float32 {
	if !(c[Unlit] > 0) {
		return 1
	}
	return geom.Clamp01(c[Lit] / c[Unlit])
}

// Light is the beauty of pixel i and its alpha: means over the samples. Where
// a floor catches shadows, these are black over what is behind it.
func (s *Sums) Light(i int) (c geom.Vec3, alpha float32) {
	px := s.Pixel(i)
	if !(px[Weight] > 0) {
		return c, 0
	}
	c, alpha = rgb(px[Beauty:]), px[Alpha]
	if k, ok := s.Layout.catches(px); ok {
		c, alpha = over(c, alpha, k)
	}
	return c.Scale(1 / px[Weight]), alpha / px[Weight]
}

// over lays light over what is behind a floor that catches shadows; all are sums.
func over(c geom.Vec3, alpha float32, k []float32) (geom.Vec3, float32) {
	open := reaches(k)
	return c.MulAdd(rgb(k[Behind:]), open), alpha + k[Caught]*(1-open) + k[BehindAlpha]*open
}

// TwinLight is Light of the picture's twin.
func (s *Sums) TwinLight(i int) (c geom.Vec3, alpha float32) {
	px := s.Pixel(i)
	at, ok := s.Layout.Place(TwinLight.Name)
	if !ok || !(px[Weight] > 0) {
		return c, 0
	}
	c, alpha = rgb(px[at:]), px[at+3]
	if k, ok := s.Layout.Place(twinOf + CaughtPlane.Name); ok {
		c, alpha = over(c, alpha, px[k:])
	}
	return c.Scale(1 / px[Weight]), alpha / px[Weight]
}

// Seen is what a floor that catches shadows adds to the light of pixel i, from
// behind it.
func (s *Sums) Seen(i int) geom.Vec3 {
	px := s.Pixel(i)
	k, ok := s.Layout.catches(px)
	if !ok || !(px[Weight] > 0) {
		return geom.Vec3{}
	}
	return rgb(k[Behind:]).Scale(reaches(k) / px[Weight])
}

// SeenHalves is Seen as either half of the samples has it; nothing while one has none.
func (s *Sums) SeenHalves(i int) (a, b geom.Vec3) {
	px := s.Pixel(i)
	wa, wb := px[WeightA], px[Weight]-px[WeightA]
	all, ok := s.Layout.catches(px)
	if !ok || wa <= 0 || wb <= 0 {
		return a, b
	}
	half, rest := caughtHalves(all)
	return rgb(half[Behind:]).Scale(reaches(half) / wa), rgb(rest[Behind:]).Scale(reaches(rest[:]) / wb)
}

// caughtHalves parts the sums of a floor that catches shadows.
func caughtHalves(all []float32) (half []float32, rest [CaughtSums]float32) {
	half = all[CaughtSums:]
	for k := range rest {
		rest[k] = all[k] - half[k]
	}
	return half, rest
}

// Shadow is how much shadow a floor catches at pixel i: 1 where no light reaches
// it, 0 beside the floor.
func (s *Sums) Shadow(i int) float32 {
	px := s.Pixel(i)
	k, ok := s.Layout.catches(px)
	if !ok || !(px[Weight] > 0) {
		return 0
	}
	return geom.Clamp01(k[Caught] / px[Weight] * (1 - reaches(k)))
}

// Halves are the beauty of pixel i as either half of the samples has it; false
// while one has none.
func (s *Sums) Halves(i int) (a, b geom.Vec3, ok bool) {
	px := s.Pixel(i)
	wa, wb := px[WeightA], px[Weight]-px[WeightA]
	if wa <= 0 || wb <= 0 {
		return a, b, false
	}
	a = rgb(px[BeautyA:])
	b = rgb(px[Beauty:]).Sub(a)
	if all, ok := s.Layout.catches(px); ok {
		a, b = halvesOver(a, b, all)
	}
	return a.Scale(1 / wa), b.Scale(1 / wb), true
}

// halvesOver lays the light of either half over what is behind a floor.
func halvesOver(a, b geom.Vec3, caught []float32) (geom.Vec3, geom.Vec3) {
	half, rest := caughtHalves(caught)
	return a.MulAdd(rgb(half[Behind:]), reaches(half)), b.MulAdd(rgb(rest[Behind:]), reaches(rest[:]))
}

// TwinHalves is Halves of the picture's twin.
func (s *Sums) TwinHalves(i int) (a, b geom.Vec3, ok bool) {
	px := s.Pixel(i)
	wa, wb := px[WeightA], px[Weight]-px[WeightA]
	at, has := s.Layout.Place(TwinLight.Name)
	if wa <= 0 || wb <= 0 || !has {
		return a, b, false
	}
	a = rgb(px[at+4:])
	b = rgb(px[at:]).Sub(a)
	if k, ok := s.Layout.Place(twinOf + CaughtPlane.Name); ok {
		a, b = halvesOver(a, b, px[k:])
	}
	return a.Scale(1 / wa), b.Scale(1 / wb), true
}

func rgb(p []float32) geom.Vec3 { return geom.V(p[0], p[1], p[2]) }
