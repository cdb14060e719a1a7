package trace

import (
	"context"

	"amberproof/core/geom"
	"amberproof/core/scene"
)

// corner is a vertex of a part in the world: its place and its unit normal on the
// front; a normal of zero where the mesh has none.
type corner struct{ p, n geom.Vec3 }

const cornerBytes = 24

// cornerAt puts vertex i of a mesh into the world.
func cornerAt(m *scene.Mesh, i uint32, world *geom.Affine, mirror bool) (c corner) {
	c.p = world.Point(m.Positions[i])
	if len(m.Normals) > 0 {
		if c.n = world.Normal(m.Normals[i]).Unit(); mirror {
			c.n = c.n.Neg()
		}
	}
	return c
}

// lay puts all vertices of a part that stands still into the world once: what rays
// meet is worked out from them.
func (p *part) lay(ctx context.Context) {
	p.laid = make([]corner, len(p.mesh.Positions))
	for i := range p.laid {
		if i&0xffff == 0 && ctx.Err() != nil {
			return // whoever asked for the world gets the context's error
		}
		p.laid[i] = cornerAt(p.mesh, uint32(i), &p.world, p.mirror)
	}
}

// corner is vertex i where the part is.
func (p *part) corner(i uint32) corner {
	if p.laid != nil {
		return p.laid[i]
	}
	return cornerAt(p.mesh, i, &p.world, p.mirror)
}
