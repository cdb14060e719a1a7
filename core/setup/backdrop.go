package setup

import (
	"math"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// Kinds of backdrops.
const (
	NoBackdrop = "none"
	Curved     = "curved"
	Flat       = "flat"
)

// Backdrop is a sheet under and behind the product, of one piece: a floor, a bend and a
// wall, or a floor alone.
type Backdrop struct {
	Kind      string  `json:"kind" choices:"none,curved,flat" def:"none"`
	Width     float64 `json:"width" unit:"mm" min:"1" max:"1000000" step:"10" def:"1000"`
	Depth     float64 `json:"depth" unit:"mm" min:"1" max:"1000000" step:"10" def:"500"`
	Front     float64 `json:"front" unit:"mm" min:"1" max:"1000000" step:"10" def:"500"`
	Height    float64 `json:"height" unit:"mm" min:"1" max:"1000000" step:"10" def:"800"`
	Bend      float64 `json:"bend" unit:"mm" min:"0" max:"1000000" step:"10" def:"200"`
	Turn      float64 `json:"turn" unit:"deg" min:"-360" max:"360" step:"1" def:"0"`
	Colour    Colour  `json:"colour"`
	Roughness float64 `json:"roughness" min:"0" max:"1" step:"0.05" def:"1"`
}

// bendSteps is how many flat strips a bend is made of; its shade is smooth over them.
const bendSteps = 64

// profile is the section of a backdrop from its front edge: distances towards the
// front and heights, metres, and which way the sheet faces there.
func (b *Backdrop) profile() (at, normal []geom.Vec3) {
	put := func(z, y, nz, ny float64) {
		at = append(at, geom.V(0, float32(y/1000), float32(z/1000)))
		normal = append(normal, geom.V(0, float32(ny), float32(nz)))
	}
	put(b.Front, 0, 0, 1)
	if b.Kind == Flat {
		put(-b.Depth, 0, 0, 1)
		return at, normal
	}
	if b.Bend == 0 { // each side of a corner has its own normal
		put(-b.Depth, 0, 0, 1)
		put(-b.Depth, 0, 1, 0)
	} else {
		for i := range bendSteps + 1 {
			sin, cos := math.Sincos(math.Pi / 2 * float64(i) / bendSteps)
			put(-b.Depth+b.Bend*(1-sin), b.Bend*(1-cos), sin, cos)
		}
	}
	put(-b.Depth, b.Height, 1, 0)
	return at, normal
}

func (b *Backdrop) mesh() scene.Mesh {
	at, normal := b.profile()
	var m scene.Mesh
	half := float32(b.Width / 2000)
	for i := range at {
		for _, x := range []float32{-half, half} {
			m.Positions = append(m.Positions, at[i].Add(geom.V(x, 0, 0)))
			m.Normals = append(m.Normals, normal[i])
		}
		if i > 0 && at[i] != at[i-1] {
			a := uint32(2 * (i - 1))
			m.Indices = append(m.Indices, a, a+1, a+3, a, a+3, a+2)
		}
	}
	return m
}

func (b *Backdrop) finish() scene.Finish {
	f := matte(b.Colour.vec())
	if b.Roughness < 1 {
		f.Roughness, f.IOR = float32(b.Roughness), 1.5
	}
	return f
}

// matte is an ideal matte finish.
func matte(colour geom.Vec3) scene.Finish {
	f := scene.NewFinish("")
	f.Base, f.Metallic, f.Roughness, f.IOR, f.DoubleSided = colour, 0, 1, 1, true
	return f
}

// under is how far the floor lies below what stands on it, as a share of the product's
// radius: their faces would else be in one plane.
const under = 2e-5

// backdropAt is from the space of the backdrop, with its floor at height 0 and the wall
// on the far side, to the world.
func (g *Stage) backdropAt() geom.Affine {
	m := g.middle()
	m.Y = float32((g.Floor - under*g.Radius) / 1000)
	return geom.Translate(m).Mul(around(1, g.Backdrop.Turn))
}

// cardTone is the reflectance of a grey card, which a right exposure shows as mid grey.
const cardTone = 0.18

// card stands beside the product, to its right as it is seen from the front of the
// backdrop, and looks there.
func (g *Stage) card() thing {
	r := float32(g.Radius / 1000)
	at := g.backdropAt().Mul(geom.Translate(geom.V(0.68*r, 0.2*r, 0.25*r))).Mul(around(1, 180))
	return thing{name: "Grey card", mesh: rectangle(0.26*r, 0.39*r), finish: matte(geom.Splat(cardTone)), world: at}
}
