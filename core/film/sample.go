package film

import "amberproof/core/geom"

// Asks is a set of what planes may ask of a sample and is not computed else.
type Asks uint8

const (
	AskFirst  Asks = 1 << iota // Sample.First
	AskMotion                  // Sample.Motion, Moves
	AskOpen                    // Sample.Open
	AskPaths                   // Sample.Paths
	AskGuide                   // Sample.Guide
)

// Sample is what one sample of the camera brings to its pixel.
type Sample struct {
	Weight   float32 // by the pixel's filter; some lie below zero
	Even     bool    // it counts for half A
	Light    geom.Vec3
	Alpha    float32
	Elements []geom.Vec3 // the light again, apart by element
	Catch    [CaughtSums]float32
	// Part is what covers the pixel here, or NoPart.
	Part int32
	// First is the first surface in sight; what follows is of it.
	First  bool
	Normal geom.Vec3 // world space, of unit length
	Depth  float32   // metres along the view axis
	// Moves says that Motion is known: pixels to the right and up while the shutter is open.
	Moves  bool
	Motion [2]float32
	Open   float32 // share of the hemisphere that nothing near is in: 1 is open
	// Twin is the sample as the picture's twin has it; nil without one.
	Twin *Sample
	Ink  float32 // share that edge lines take
	// Paths is the light once more, by the ways it came.
	Paths []Contribution
	// Source is the one that the pixel keeps, where the film does.
	Source Source
	Guide  Guide
}

// Contribution is light that one path brings to its sample.
type Contribution struct {
	Element int
	Way     Way
	Depth   int // surfaces that turned the path between the camera and the light
	Light   geom.Vec3
}

// Way is how light came: light looked at, light that falls on the first surface that
// turns the path, or indirect light, by how that surface sends it on.
type Way uint8

const (
	Looked Way = iota
	Direct
	ByMatte
	ByGloss
	ByClear
)

// Indirect reports whether the light was turned more than once.
func (w Way) Indirect() bool { return w > Direct }

// NoPart is the part of a sample that hit none.
const NoPart = -1

// Add adds a sample to the sums of pixel i.
func (s *Sums) Add(i int, m *Sample) {
	px := s.Pixel(i)
	px[Weight] += m.Weight
	AddRGB(px[Beauty:], m.Light, m.Weight)
	px[Alpha] += m.Alpha * m.Weight
	if m.Even {
		px[WeightA] += m.Weight
		AddRGB(px[BeautyA:], m.Light, m.Weight)
	}
	for k := range s.Layout.planes {
		p := &s.Layout.planes[k]
		sum := px[s.Layout.at[k]:]
		p.add(sum[:p.Values:p.Values], m)
		if p.Halves && m.Even {
			p.add(sum[p.Values:2*p.Values], m)
		}
	}
	if s.Layout.cover && m.Part != NoPart {
		s.AddCover(i, uint32(m.Part), m.Weight)
	}
}

// AddRGB adds a colour, or another vector, to three sums.
func AddRGB(sum []float32, c geom.Vec3, weight float32) {
	sum = sum[:3:3]
	sum[0] += c.X * weight
	sum[1] += c.Y * weight
	sum[2] += c.Z * weight
}
