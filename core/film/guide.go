package film

import "amberproof/core/geom"

// Guide tells what a sample saw apart from what others saw, with next to no noise of
// light: of the first surfaces that are neither perfect mirrors nor windows, by the
// way the camera's ray takes to them through clear parts and over mirrors.
type Guide struct {
	// Albedo is about the share of light that the surface sends on, as the camera
	// gets it; of what shines, its light brought below 1.
	Albedo geom.Vec3
	Normal geom.Vec3 // world space
	Far    float32   // metres along the way
}

// Places within GuidePlane.
const (
	GuideAlbedo = 0
	GuideNormal = 3
	GuideFar    = 6
	GuideValues = 7
)

// GuidePlane keeps what noise is told from detail by.
var GuidePlane = Plane{Name: "guide", Values: GuideValues, Halves: true, Of: GuideData}

// KeptPlane is the plane of a film with its noise taken out that tells which share of the
// light of either half was taken for more than a spark.
const KeptPlane = "kept"
