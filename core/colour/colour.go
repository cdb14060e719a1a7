// Package colour holds the colour arithmetic: encodings, luminance, the
// display transforms used for looking, and conversions between primaries.
// Scene-linear RGB has Rec.709 primaries and a D65 white unless said otherwise.
package colour

import (
	"math"

	"amberproof/core/geom"
)

// Luminance is the CIE Y of scene-linear Rec.709 RGB.
func Luminance(c geom.Vec3) float32 { return 0.2126*c.X + 0.7152*c.Y + 0.0722*c.Z }

// EncodeSRGB is the sRGB transfer function (IEC 61966-2-1) for x in 0..1.
func EncodeSRGB(x float32) float32 {
	if x <= 0.0031308 {
		return 12.92 * x
	}
	return 1.055*float32(math.Pow(float64(x), 1/2.4)) - 0.055
}

// DecodeSRGB is the inverse of EncodeSRGB.
func DecodeSRGB(x float32) float32 {
	if x <= 0.04045 {
		return x / 12.92
	}
	return float32(math.Pow((float64(x)+0.055)/1.055, 2.4))
}

// SRGB8 is DecodeSRGB for each byte value.
var SRGB8 = func() (t [256]float32) {
	for i := range t {
		t[i] = DecodeSRGB(float32(i) / 255)
	}
	return
}()

// Transform names a display transform: how scene-linear values are shown.
type Transform string

const (
	// Plain shows 1.0 as white and clips above.
	Plain Transform = "plain"
	// Filmic rolls highlights off towards white; its mid grey stays mid grey.
	Filmic Transform = "filmic"
)

// The filmic curve is a rational roll-off with a linear start, its own slope
// and shoulder chosen so that 0.18 maps to 0.18, and 16 (about 6.5 stops over
// mid grey) reaches display white.
const (
	filmicKnee  = 0.18
	filmicWhite = 16.0
)

var filmicK = func() float64 {
	// Shoulder y = knee + (1-knee) * log(1+k t)/log(1+k), t = (x-knee)/(white-knee);
	// k so that the slope at the knee is one.
	lo, hi := 1.0, 1e6
	slope := func(k float64) float64 {
		return (1 - filmicKnee) * k / math.Log1p(k) / (filmicWhite - filmicKnee)
	}
	for i := 0; i < 200; i++ {
		m := (lo + hi) / 2
		if slope(m) < 1 {
			lo = m
		} else {
			hi = m
		}
	}
	return (lo + hi) / 2
}()

var filmicLogK = math.Log1p(filmicK)

func filmic(x float32) float32 {
	if x <= filmicKnee {
		return x
	}
	t := (float64(x) - filmicKnee) / (filmicWhite - filmicKnee)
	return min(1, float32(filmicKnee+(1-filmicKnee)*math.Log1p(filmicK*t)/filmicLogK))
}

// Tone maps one scene-linear channel, exposure already applied, to display-linear 0..1.
func (t Transform) Tone(x float32) float32 {
	if !(x > 0) { // also not-a-number
		return 0
	}
	if t == Filmic {
		return filmic(x)
	}
	return min(x, 1)
}

// Display maps scene-linear RGB to display values 0..1, sRGB-encoded; gain is 2^EV.
func (t Transform) Display(c geom.Vec3, gain float32) geom.Vec3 {
	return geom.V(
		EncodeSRGB(t.Tone(c.X*gain)),
		EncodeSRGB(t.Tone(c.Y*gain)),
		EncodeSRGB(t.Tone(c.Z*gain)),
	)
}

// Scene is the scene-linear value, exposure applied, that a transform shows as a display
// value from 0 to 1: the inverse of Display for one channel.
func (t Transform) Scene(shown float32) float32 {
	y := float64(DecodeSRGB(min(max(shown, 0), 1)))
	if t != Filmic || y <= filmicKnee {
		return float32(y)
	}
	return float32(filmicKnee + math.Expm1((y-filmicKnee)/(1-filmicKnee)*filmicLogK)/filmicK*(filmicWhite-filmicKnee))
}

// Gain is the factor of an exposure in stops.
func Gain(ev float64) float32 { return float32(math.Exp2(ev)) }
