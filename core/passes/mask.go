package passes

import "amberproof/core/film"

// PartMask is the share of each pixel that a part covers, FinishMask that all parts
// of a finish do.
const (
	PartMask   Kind = "part"
	FinishMask Kind = "finish"
)

// mask is the coverage of a set of parts.
type mask struct {
	grey
	parts map[uint32]bool
}

func (mask) form() form { return form{channels: []string{"Y"}} }

func (m mask) value(s *film.Sums, i, _ int, v *values) {
	v[0] = min(1, s.CoverOf(i, func(part uint32) bool { return m.parts[part] })/s.Covered(i))
}

type partMask struct{}

func (partMask) kind() Kind                           { return PartMask }
func (partMask) needs(*Wanted, []string) []film.Plane { return nil } // coverage is always kept

func (partMask) list(p *picture) (out []Pass) {
	for i, k := range p.scene.Titles() {
		if !p.bare(i) {
			out = append(out, Pass{Key: "part." + Slug(k), Title: k, shown: mask{parts: map[uint32]bool{uint32(i): true}}})
		}
	}
	return out
}

type finishMask struct{}

func (finishMask) kind() Kind                           { return FinishMask }
func (finishMask) needs(*Wanted, []string) []film.Plane { return nil } // coverage is always kept

func (finishMask) list(p *picture) (out []Pass) {
	by := map[string]mask{}
	for i := range p.scene.Parts {
		if p.bare(i) {
			continue
		}
		n := p.scene.FinishName(i)
		m, ok := by[n]
		if !ok {
			m = mask{parts: map[uint32]bool{}}
			by[n] = m
			out = append(out, Pass{Key: "finish." + Slug(n), Title: n, shown: m})
		}
		m.parts[uint32(i)] = true
	}
	return out
}

// PartAt is the part that covers most of a pixel of the frame, or ok false.
func PartAt(f *film.Film, x, y int) (part int, ok bool) {
	t, i := f.At(x, y)
	best := float32(0)
	for e := t.Heads[i]; e >= 0; e = t.Entries[e].Next {
		if c := t.Entries[e]; c.Weight > best {
			best, part, ok = c.Weight, int(c.Part), true
		}
	}
	return part, ok
}
