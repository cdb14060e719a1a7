package optics

import "amberproof/core/geom"

// Spot is where an override is asked what a surface is made of.
type Spot struct {
	P, N geom.Vec3 // world space; the shading normal, on the side of the viewer
	Part int
}

// Override says what a point is made of, in place of what its finish and textures
// and the colours of its mesh have made of it. It is called by several goroutines
// at once, for every vertex of every path that hits its finish.
type Override func(at Spot, s Surface) Surface

// Crevice darkens a finish where it is closed in: its colour goes from its own, where all
// is open, to Tone, where nothing is, by the share of the cosine-weighted hemisphere that
// is open within Reach, metres.
type Crevice struct {
	Tone  geom.Vec3
	Reach float32
}
