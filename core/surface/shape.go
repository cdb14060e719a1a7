package surface

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"math"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// shapesOf tells meshes apart by their vertices, faces and how they are shaped: short
// checksums, mesh by mesh.
func shapesOf(s *scene.Scene) []string {
	out := make([]string, len(s.Meshes))
	for i := range s.Meshes {
		m := &s.Meshes[i]
		h := sha256.New()
		b := make([]byte, 0, 4096)
		add := func(v uint32) {
			if b = binary.LittleEndian.AppendUint32(b, v); len(b) == cap(b) {
				h.Write(b)
				b = b[:0]
			}
		}
		add(uint32(len(m.Positions)))
		for _, p := range m.Positions {
			add(math.Float32bits(p.X))
			add(math.Float32bits(p.Y))
			add(math.Float32bits(p.Z))
		}
		for _, k := range m.Indices {
			add(k)
		}
		// How smooth it looks is of its finish and not of its shape.
		add(uint32(m.Shaping.Levels))
		h.Write(b)
		out[i] = hex.EncodeToString(h.Sum(nil)[:8])
	}
	return out
}

// Change is what was done to a part between two pictures.
type Change struct {
	Key    string // name of the part in the file
	Title  string
	What   What
	By     geom.Vec3 // it was moved, metres in the world
	Turn   float32   // it was turned, radians
	Size   geom.Vec3 // it has now, metres
	Was    geom.Vec3 // size it had
	Finish string    // it has now
	Wore   string    // finish it had
}

// What was done to a part.
type What string

// What may have been done to a part.
const (
	Added    What = "added"
	Removed  What = "removed"
	Reshaped What = "reshaped"
	Moved    What = "moved"
	Turned   What = "turned"
	Scaled   What = "scaled"
	Finished What = "finished" // given another finish
)

// Changes are what was done to parts, in the order of the parts that are there now, then those
// that are gone. Parts are the same if their keys are.
func Changes(was, now []Part) (out []Change) {
	before := map[string]*Part{}
	for i := range was {
		if !was[i].Out {
			before[was[i].Key] = &was[i]
		}
	}
	for i := range now {
		p := &now[i]
		if p.Out {
			continue
		}
		old, ok := before[p.Key]
		delete(before, p.Key)
		if !ok {
			out = append(out, Change{Key: p.Key, Title: p.Title, What: Added, Size: p.Box.Size(), Finish: p.Finish})
			continue
		}
		if c, ok := shifted(old, p); ok {
			out = append(out, c)
		}
		if old.Finish != p.Finish {
			out = append(out, Change{Key: p.Key, Title: p.Title, What: Finished, Finish: p.Finish, Wore: old.Finish})
		}
	}
	for i := range was {
		if p := before[was[i].Key]; p == &was[i] {
			out = append(out, Change{Key: p.Key, Title: p.Title, What: Removed, Was: p.Box.Size(), Wore: p.Finish})
		}
	}
	return out
}

// The least that counts as a change: what rounding alone does is less.
const (
	leastMove = 1e-5 // of the part's size
	leastSize = 1e-5 // share
	leastTurn = 1e-3 // radians
)

// shifted tells what was done to the place and shape of a part.
func shifted(was, now *Part) (c Change, ok bool) {
	c = Change{Key: now.Key, Title: now.Title, Size: now.Box.Size(), Was: was.Box.Size(), By: now.Box.Centre().Sub(was.Box.Centre())}
	if was.Shape != now.Shape {
		c.What = Reshaped
		return c, true
	}
	size := max(was.Box.Radius(), now.Box.Radius())
	for i := range 3 {
		a, b := was.World.Axis(i).Len(), now.World.Axis(i).Len()
		if geom.Abs(a-b) > leastSize*max(a, b) {
			c.What = Scaled
			return c, true
		}
	}
	// The trace of one turn undone by the other tells the angle between them.
	var trace float32
	for i := range 3 {
		trace += was.World.Axis(i).Unit().Dot(now.World.Axis(i).Unit())
	}
	c.Turn = float32(math.Acos(float64(min(1, max(-1, (trace-1)/2)))))
	if c.Turn > leastTurn { // an arc cosine near one tells half the digits of its argument
		c.What = Turned
		return c, true
	}
	c.Turn = 0
	if c.By.Len() > leastMove*size {
		c.What = Moved
		return c, true
	}
	return c, false
}
