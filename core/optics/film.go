package optics

import (
	"math"

	"amberproof/core/geom"
)

// Film is a layer about as thick as light's wavelength on a surface: share 0
// to 1, index of refraction, thickness in nanometres.
type Film struct{ Share, IOR, Thickness float32 }

// filmF0 is the reflectance at normal incidence, scene-linear Rec.709, of a
// surface of reflectance base under a film seen at cosine mu: the interference
// of Belcour & Barla 2017 in their analytic spectral form, turned back to
// normal incidence by Schlick's curve, as the open glTF 2.0 iridescence
// extension does.
func filmF0(f Film, base geom.Vec3, mu float32) geom.Vec3 {
	// Towards no thickness the film fades out of being.
	t := geom.Clamp01(f.Thickness / 30)
	ior := 1 + (f.IOR-1)*t*t*(3-2*t)
	sin2 := (1 - mu*mu) / (ior * ior)
	if sin2 >= 1 {
		return geom.Splat(1)
	}
	cos2 := geom.Sqrt(1 - sin2)
	r0 := F0OfIOR(ior)
	r12 := r0 + (1-r0)*schlick(mu)
	t121 := 1 - r12
	phi12 := float32(0)
	if ior < 1 {
		phi12 = math.Pi
	}
	phi21 := float32(math.Pi) - phi12
	var r23, phi geom.Vec3
	at := func(b float32) (r, p float32) {
		root := geom.Sqrt(min(max(b, 0), 0.9999))
		n := (1 + root) / (1 - root) // the index the base's reflectance stands for
		k := (n - ior) / (n + ior)
		k *= k
		if n < ior {
			p = math.Pi
		}
		return k + (1-k)*schlick(cos2), p + phi21
	}
	r23.X, phi.X = at(base.X)
	r23.Y, phi.Y = at(base.Y)
	r23.Z, phi.Z = at(base.Z)
	path := 2 * ior * f.Thickness * cos2
	limit := func(v float32) float32 { return min(max(v, 1e-5), 0.9999) }
	r123 := geom.V(limit(r12*r23.X), limit(r12*r23.Y), limit(r12*r23.Z))
	rs := geom.V(t121*t121*r23.X/(1-r123.X), t121*t121*r23.Y/(1-r123.Y), t121*t121*r23.Z/(1-r123.Z))
	sum := geom.Splat(r12).Add(rs)
	cm := rs.Sub(geom.Splat(t121))
	root := geom.V(geom.Sqrt(r123.X), geom.Sqrt(r123.Y), geom.Sqrt(r123.Z))
	for m := float32(1); m <= 2; m++ {
		cm = cm.Mul(root)
		sum = sum.Add(cm.Mul(sensitivity(m*path, phi.Scale(m))).Scale(2))
	}
	// What Schlick's curve adds at this angle is taken off again.
	s := schlick(mu)
	f0 := geom.V(unSchlick(sum.X, s), unSchlick(sum.Y, s), unSchlick(sum.Z, s))
	return base.Lerp(f0, f.Share)
}

func unSchlick(f, s float32) float32 {
	return geom.Clamp01((min(max(f, 0), 1) - s) / max(1-s, 1e-4))
}

// bell is a curve of the eye's sensitivity over the spectrum as its Fourier
// transform: the height, the place (waves a metre) and the variance of a Gaussian.
type bell struct{ height, place, variance float32 }

func newBell(value, place, variance float64) bell {
	const unit = 1.0685e-7
	return bell{float32(value * math.Sqrt(2*math.Pi*variance) / unit), float32(place), float32(variance)}
}

// The curves of X, which has two, Y and Z (Belcour & Barla 2017).
var (
	bellX  = newBell(5.4856e-13, 1.6810e+06, 4.3278e+09)
	bellX2 = newBell(9.7470e-14, 2.2399e+06, 4.5282e+09)
	bellY  = newBell(4.4201e-13, 1.7953e+06, 9.3046e+09)
	bellZ  = newBell(5.2481e-13, 2.2084e+06, 6.6121e+09)
)

// at is the response to a cosine over the spectrum, for a path difference in
// metres and a shift in turns.
func (b *bell) at(path, shift float32) float32 {
	t := b.place*path + shift
	_, cos := geom.SinCosTurn(t - float32(math.Floor(float64(t))))
	phase := 2 * math.Pi * path
	return b.height * cos * float32(math.Exp(float64(-phase*phase*b.variance)))
}

// sensitivity is the eye's response to a cosine over the spectrum, for a path
// difference in nanometres and shifts in radians, as scene-linear Rec.709.
func sensitivity(path float32, shift geom.Vec3) geom.Vec3 {
	path *= 1e-9
	shift = shift.Scale(1 / (2 * math.Pi))
	x := bellX.at(path, shift.X) + bellX2.at(path, shift.X)
	y, z := bellY.at(path, shift.Y), bellZ.at(path, shift.Z)
	return geom.V(3.2404542*x-1.5371385*y-0.4985314*z, -0.9692660*x+1.8760108*y+0.0415560*z, 0.0556434*x-0.2040259*y+1.0572252*z)
}
