package server

import (
	"context"

	"amberproof/core/geom"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/internal/identity"
	"amberproof/internal/live"
	"amberproof/internal/scenes"
)

// standBody is the shape of a part on the stage, which is not in the scene's file.
type standBody struct {
	Part      int       `json:"part" doc:"Its place among the scene's parts"`
	Positions []float32 `json:"positions" nullable:"false" doc:"Three for each corner, in the part's own space"`
	Normals   []float32 `json:"normals" nullable:"false" doc:"Three for each corner, or none"`
	Indices   []uint32  `json:"indices" nullable:"false" doc:"Three for each triangle"`
}

// litBody is what a light of the stage gives.
type litBody struct {
	Name  string     `json:"name" doc:"In the scene, by which jobs switch it"`
	At    [3]float32 `json:"at" nullable:"false" doc:"Where it stands, metres"`
	Aim   [3]float32 `json:"aim" nullable:"false" doc:"What it shines at, metres"`
	Lux   float64    `json:"lux" doc:"At what it is aimed at, square on and with nothing in the way"`
	Lumen float64    `json:"lumen" doc:"All of its light; 0 of a sun"`
	Nit   float64    `json:"nit" doc:"Brightness of its surface; 0 where it has none"`
	EV    float64    `json:"ev" doc:"Stops against the light of the stage that gives most lux"`
}

func standsOf(s *scene.Scene) []standBody {
	out := []standBody{}
	for i := range s.Parts {
		if !s.Parts[i].Staged {
			continue
		}
		m := &s.Meshes[s.Parts[i].Mesh]
		out = append(out, standBody{i, flat(m.Positions), flat(m.Normals), m.Indices})
	}
	return out
}

func flat(v []geom.Vec3) []float32 {
	out := make([]float32, 0, 3*len(v))
	for _, p := range v {
		out = append(out, p.X, p.Y, p.Z)
	}
	return out
}

func litOf(g *setup.Stage, s *scene.Scene) []litBody {
	out := []litBody{}
	if g == nil {
		return out
	}
	for _, p := range g.Placed(s) {
		out = append(out, litBody{p.Name, [3]float32{p.At.X, p.At.Y, p.At.Z}, [3]float32{p.Aim.X, p.Aim.Y, p.Aim.Z}, p.Gives.Lux, p.Gives.Lumen, p.Gives.Nit, p.EV})
	}
	return out
}

// stage are operations on what stands around the product.
func (s *Server) stage() {
	handle(s, "POST", "/api/scenes/{id}/stage", "work-out-stage", "A stage for a scene, to be saved with its set-up",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body struct {
				What  string       `json:"what" enum:"new,around,measure" doc:"A first one; the given one around this product; or its backdrop as large as the views need"`
				Stage *setup.Stage `json:"stage,omitempty"`
				Views []string     `json:"views,omitempty" maxItems:"1000" nullable:"false" doc:"Names of those whose pictures the backdrop is to fill; none: all"`
			}
		}) (scenes.Staging, error) {
			return s.app.Scenes.Stage(ctx, who, in.ID, in.Body.What, in.Body.Stage, in.Body.Views)
		})
	sendPNG(s, "POST", "/api/scenes/{id}/small", "render-small", "A small traced picture of a scene, at once",
		func(ctx context.Context, who identity.Actor, in *struct {
			ByID
			Body live.Wish
		}) ([]byte, error) {
			return s.app.Live.Small(ctx, who, in.ID, &in.Body)
		})
}
