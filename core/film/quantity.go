package film

import "amberproof/core/colour"

// Quantity is what a plane sums of samples, by their weight. It is data and no function, so
// that a layout can be told to a worker elsewhere.
type Quantity uint8

const (
	// Nothing leaves the plane to whoever fills it in otherwise.
	Nothing Quantity = iota
	// ElementLight is the light of the plane's Element: 3 values.
	ElementLight
	// CaughtLight is what floors that catch shadows need: CaughtSums values.
	CaughtLight
	// GuideData is what noise is told from detail by: GuideValues values.
	GuideData
	// LightAndAlpha is light and alpha, as every film keeps those of its picture: 4 values.
	LightAndAlpha
	// FirstNormal is the normal of the first surface in sight: 3 values.
	FirstNormal
	// FirstDepth is its depth, and the weight of the samples that hit one: 2 values.
	FirstDepth
	// ScreenMotion is its motion, and the weight of the samples that have one: 3 values.
	ScreenMotion
	// OpenShare is the share of the hemisphere that nothing near is in: 1 value.
	OpenShare
	// InkShare is the share that edge lines take: 1 value.
	InkShare
	// LightByDepth is light by how many surfaces turned its path, from none on: 3 values each.
	LightByDepth
	// LightByWay is light by Way: 3 values each.
	LightByWay
	// SourceLight is the luminance of the one Source that the pixel keeps: 1 value.
	SourceLight
)

// asks is what each quantity reads of a sample that is only there when asked for.
var asks = map[Quantity]Asks{
	GuideData: AskGuide, FirstNormal: AskFirst, FirstDepth: AskFirst, ScreenMotion: AskMotion, OpenShare: AskOpen, LightByDepth: AskPaths, LightByWay: AskPaths,
	SourceLight: AskPaths,
}

// add adds a sample to the plane's sums.
func (p *Plane) add(sum []float32, s *Sample) {
	if p.Twin {
		if s = s.Twin; s == nil {
			return
		}
	}
	switch p.Of {
	case ElementLight:
		AddRGB(sum, s.Elements[p.Element], s.Weight)
	case CaughtLight:
		for k, v := range s.Catch {
			sum[k] += v * s.Weight
		}
	case GuideData:
		AddRGB(sum[GuideAlbedo:], s.Guide.Albedo, s.Weight)
		AddRGB(sum[GuideNormal:], s.Guide.Normal, s.Weight)
		sum[GuideFar] += s.Guide.Far * s.Weight
	case LightAndAlpha:
		AddRGB(sum, s.Light, s.Weight)
		sum[3] += s.Alpha * s.Weight
	case FirstNormal:
		if s.First {
			AddRGB(sum, s.Normal, s.Weight)
		}
	case FirstDepth:
		if s.First {
			sum[0] += s.Depth * s.Weight
			sum[1] += s.Weight
		}
	case ScreenMotion:
		if s.Moves {
			sum[0] += s.Motion[0] * s.Weight
			sum[1] += s.Motion[1] * s.Weight
			sum[2] += s.Weight
		}
	case OpenShare:
		sum[0] += s.Open * s.Weight
	case InkShare:
		sum[0] += s.Ink * s.Weight
	case SourceLight:
		for i := range s.Paths {
			if c := &s.Paths[i]; c.Source() == s.Source {
				sum[0] += colour.Luminance(c.Light) * s.Weight
			}
		}
	case LightByDepth, LightByWay:
		for _, c := range s.Paths {
			k := c.Depth
			if p.Of == LightByWay {
				k = int(c.Way)
			}
			if 3*k < len(sum) {
				AddRGB(sum[3*k:], c.Light, s.Weight)
			}
		}
	}
}
