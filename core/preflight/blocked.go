package preflight

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"math"
	"runtime"
	"slices"

	"amberproof/core/scene"
	"amberproof/core/trace"
)

// Blocked is how much light a part would take from what is seen, if it wore clay: light
// that its own finish lets through, or gives.
type Blocked struct {
	Part int
	All  Share // of the light on the product or, where that gets little of it, on all that the picture shows
	// Worst is of one light on one finish, where the most of it is lost.
	Light, On string
	Worst     Share
	ByLight   []Dimmed // by lights that it takes some of
}

// Dimmed is how much of one light is lost.
type Dimmed struct {
	Light string
	Of    Share
}

// Share is an estimated share in percent, with one standard deviation.
type Share struct{ Percent, Error float64 }

func (s Share) String() string {
	return fmt.Sprintf("%.0f %% ± %.0f", s.Percent, math.Ceil(s.Error))
}

// Says tells it in a line.
func (b *Blocked) Says(name string) string {
	return fmt.Sprintf("%s: %s of %s on %s, %s of the light on all that is seen", name, b.Worst, b.Light, b.On, b.All)
}

const (
	// blockedPoints is how many points of the picture are looked at for light.
	blockedPoints = 32768
	leastBlocked  = 2 // percent of the light that is told
)

// CheckBlocked tells which of the covered parts of a scene would take more than two
// percent of the light on the product, or on all that the picture shows, or of one light that gives as much there, worst
// first; and what all of them take together. The world is the scene as its own finishes
// have it. The error is that of a quotient of sums over points (Cochran, Sampling
// Techniques, 1977, 6.4).
func CheckBlocked(ctx context.Context, s *scene.Scene, lamp func(part int) bool, w *trace.World, covered []bool) (out []Blocked, all Share, err error) {
	fallen, err := w.Fallen(ctx, blockedPoints, runtime.GOMAXPROCS(0))
	if err != nil {
		return nil, all, err
	}
	n := len(s.Parts)
	around := s.Around(lamp)
	product := slices.DeleteFunc(slices.Clone(fallen), func(f trace.Falling) bool { return f.On >= n || around[f.On] })
	out, all = blockedOf(s, w.LightNames(), product, covered)
	// What stands around the product counts where it is told nothing of: a lamp over a large
	// floor lights little else.
	seen, whole := blockedOf(s, w.LightNames(), fallen, covered)
	for _, b := range seen {
		if !slices.ContainsFunc(out, func(o Blocked) bool { return o.Part == b.Part }) {
			out = append(out, b)
		}
	}
	if whole.Percent > all.Percent {
		all = whole
	}
	slices.SortStableFunc(out, func(a, b Blocked) int { return cmp.Compare(b.All.Percent, a.All.Percent) })
	return out, all, nil
}

// blockedOf is what covered parts take of some of the light that falls, and what all of them
// take together.
func blockedOf(s *scene.Scene, names []string, fallen []trace.Falling, covered []bool) (out []Blocked, all Share) {
	n := len(s.Parts)
	finish := func(part int) string {
		if part >= n {
			return "the floor" // that a ticket lays, which is no part of the scene
		}
		return s.FinishName(part)
	}
	type kind struct {
		light int
		on    string
	}
	none := kind{-1, ""}
	whole := sums[kind]{}
	lost := map[int]sums[kind]{}
	together := sums[kind]{}
	for _, f := range fallen {
		of := []kind{none, {f.Light, ""}, {f.Light, finish(f.On)}}
		for _, k := range of {
			whole.add(k, f.Point, f.Much)
		}
		var taken []int
		for _, p := range f.By {
			if p < n && covered[p] && !slices.Contains(taken, p) {
				taken = append(taken, p)
			}
		}
		for _, p := range taken {
			if lost[p] == nil {
				lost[p] = sums[kind]{}
			}
			for _, k := range of {
				lost[p].add(k, f.Point, f.Much)
			}
		}
		if len(taken) > 0 {
			together.add(none, f.Point, f.Much)
		}
	}
	all = shareOf(together[none], whole[none])
	for p := range s.Parts {
		if lost[p] == nil {
			continue
		}
		b := Blocked{Part: p, All: shareOf(lost[p][none], whole[none])}
		counts := b.All.Percent > leastBlocked
		most := 0.0
		for light, name := range names {
			k := kind{light, ""}
			if lost[p][k] == nil {
				continue
			}
			d := Dimmed{name, shareOf(lost[p][k], whole[k])}
			b.ByLight = append(b.ByLight, d)
			counts = counts || d.Of.Percent > leastBlocked && 100*whole[k].total() > leastBlocked*whole[none].total()
		}
		kinds := slices.SortedFunc(maps.Keys(lost[p]), func(a, b kind) int { // of two alike it is always the same
			return cmp.Or(cmp.Compare(a.light, b.light), cmp.Compare(a.on, b.on))
		})
		for _, k := range kinds {
			if much := lost[p][k].total(); k.on != "" && much > most {
				most, b.Light, b.On, b.Worst = much, names[k.light], k.on, shareOf(lost[p][k], whole[k])
			}
		}
		if counts {
			out = append(out, b)
		}
	}
	return out, all
}

// sums adds values up by kind and point.
type sums[K comparable] map[K]byPoint

type byPoint map[int]float64

func (s sums[K]) add(k K, point int, v float64) {
	if s[k] == nil {
		s[k] = byPoint{}
	}
	s[k][point] += v
}

func (b byPoint) total() (t float64) {
	for _, p := range b.points() {
		t += b[p]
	}
	return t
}

func (b byPoint) points() []int {
	out := make([]int, 0, len(b))
	for p := range b {
		out = append(out, p)
	}
	slices.Sort(out)
	return out
}

// shareOf is the quotient of two sums over the same points.
func shareOf(part, whole byPoint) Share {
	t := whole.total()
	if t <= 0 {
		return Share{}
	}
	r := part.total() / t
	var v float64
	points := whole.points()
	for _, p := range points {
		d := part[p] - r*whole[p]
		v += d * d
	}
	n := float64(len(points))
	if n > 1 {
		v *= n / (n - 1)
	}
	return Share{100 * r, 100 * math.Sqrt(v) / t}
}
