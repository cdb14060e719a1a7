package lights

import (
	"context"
	"math"

	"amberproof/core/geom"
)

// Sky is a clear day by the height of its sun: the model of Preetham, Shirley
// & Smits 1999 in nits, with the sun as a light of its own.
type Sky struct {
	Height    float64 // of the sun over the horizon, radians, 0 to pi/2
	Turbidity float64 // 2 is very clear, 10 hazy
}

const (
	skyW, skyH = 512, 256
	// groundAlbedo is what the ground below the horizon sends back of what falls on it.
	groundAlbedo = 0.2
	// SunAngle is the half angle of the sun's disc, radians.
	SunAngle = 0.00465
	// solarConstant is the illuminance of the sun outside the air, lux.
	solarConstant = 127500
)

// Sun is the direction towards the sun before any turn: behind the camera that
// looks along -Z, to its right.
func (k Sky) Sun() geom.Vec3 {
	s, c := math.Sincos(k.Height)
	a := 0.7
	return geom.V(float32(c*math.Sin(a)), float32(s), float32(c*math.Cos(a)))
}

// Sunlight is the irradiance of the sun, lux per channel, square on: what
// Rayleigh scattering and haze leave of it (appendix of the paper), taken at
// one wavelength a channel.
func (k Sky) Sunlight() geom.Vec3 {
	zenith := math.Pi/2 - k.Height
	m := 1 / (math.Cos(zenith) + 0.15*math.Pow(93.885-zenith*180/math.Pi, -1.253))
	beta := max(0, 0.04608*k.Turbidity-0.04586)
	at := func(um float64) float32 {
		return float32(solarConstant * math.Exp(-0.008735*math.Pow(um, -4.08)*m) * math.Exp(-beta*math.Pow(um, -1.3)*m))
	}
	return geom.V(at(0.61), at(0.55), at(0.465))
}

type perez [5]float64

func (c *perez) at(cosZ, angle, cosA float64) float64 {
	return (1 + c[0]*math.Exp(c[1]/cosZ)) * (1 + c[2]*math.Exp(c[3]*angle) + c[4]*cosA*cosA)
}

// Radiance is what comes from the unit direction d at or above the horizon,
// without the sun's disc, in nits.
func (k Sky) Radiance(d geom.Vec3) geom.Vec3 {
	t := k.Turbidity
	cy := perez{0.1787*t - 1.4630, -0.3554*t + 0.4275, -0.0227*t + 5.3251, 0.1206*t - 2.5771, -0.0670*t + 0.3703}
	cx := perez{-0.0193*t - 0.2592, -0.0665*t + 0.0008, -0.0004*t + 0.2125, -0.0641*t - 0.8989, -0.0033*t + 0.0452}
	cz := perez{-0.0167*t - 0.2608, -0.0950*t + 0.0092, -0.0079*t + 0.2102, -0.0441*t - 1.6537, -0.0109*t + 0.0529}
	s := math.Pi/2 - k.Height
	s2, s3 := s*s, s*s*s
	zx := t*t*(0.00166*s3-0.00375*s2+0.00209*s) + t*(-0.02903*s3+0.06377*s2-0.03202*s+0.00394) + 0.11693*s3 - 0.21196*s2 + 0.06052*s + 0.25886
	zy := t*t*(0.00275*s3-0.00610*s2+0.00317*s) + t*(-0.04214*s3+0.08970*s2-0.04153*s+0.00516) + 0.15346*s3 - 0.26756*s2 + 0.06670*s + 0.26688
	cosA := min(1, max(-1, float64(d.Dot(k.Sun()))))
	angle := math.Acos(cosA)
	cosZ := max(float64(d.Y), 0.01)
	lum := k.zenith() * cy.at(cosZ, angle, cosA) / cy.at(1, s, math.Cos(s))
	x := zx * cx.at(cosZ, angle, cosA) / cx.at(1, s, math.Cos(s))
	y := zy * cz.at(cosZ, angle, cosA) / cz.at(1, s, math.Cos(s))
	lum = max(lum, 0)
	bx, bz := lum*x/y, lum*(1-x-y)/y
	// Into Rec.709; what lies outside it is brought to its edge.
	rgb := func(a, b, c float64) float32 { return float32(max(0, a*bx+b*lum+c*bz)) }
	return geom.V(rgb(3.2404542, -1.5371385, -0.4985314), rgb(-0.9692660, 1.8760108, 0.0415560), rgb(0.0556434, -0.2040259, 1.0572252))
}

// zenith is the luminance straight up, nits.
func (k Sky) zenith() float64 {
	t, s := k.Turbidity, math.Pi/2-k.Height
	chi := (4.0/9 - t/120) * (math.Pi - 2*s)
	return max(0, 1000*((4.0453*t-4.9710)*math.Tan(chi)-0.2155*t+2.4192))
}

// Env is the sky as an environment, with an even ground.
func (k Sky) Env(ctx context.Context, turn, gain float32) *Env {
	pix := make([]float32, skyW*skyH*3)
	var down geom.Vec3 // irradiance of the level ground
	for y := range skyH / 2 {
		v := (float64(y) + 0.5) / skyH * math.Pi
		for x := range skyW {
			u := ((float64(x)+0.5)/skyW - 0.5) * 2 * math.Pi
			d := geom.V(float32(math.Sin(v)*math.Sin(u)), float32(math.Cos(v)), float32(-math.Sin(v)*math.Cos(u)))
			c := k.Radiance(d)
			i := (y*skyW + x) * 3
			pix[i], pix[i+1], pix[i+2] = c.X, c.Y, c.Z
			down = down.Add(c.Scale(float32(math.Sin(v) * math.Cos(v) * 2 * math.Pi / skyW * math.Pi / skyH)))
		}
	}
	down = down.Add(k.Sunlight().Scale(k.Sun().Y))
	ground := down.Scale(groundAlbedo / math.Pi)
	for i := skyW * skyH / 2 * 3; i < len(pix); i += 3 {
		pix[i], pix[i+1], pix[i+2] = ground.X, ground.Y, ground.Z
	}
	return Picture(ctx, skyW, skyH, pix, turn, gain)
}
