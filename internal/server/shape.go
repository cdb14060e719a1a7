package server

import (
	"bytes"
	"encoding/binary"
	"encoding/json"

	"amberproof/core/scene"
)

// shapeOf packs a scene for the turnable view: a length (uint32), a JSON
// header, and little-endian float32 and uint32 arrays that the header points
// into. Meshes are sent once, however many parts wear them.
func shapeOf(s *scene.Scene) []byte {
	type run struct {
		At int `json:"at"` // byte offset after the header
		N  int `json:"n"`  // numbers
	}
	type mesh struct {
		Positions run  `json:"positions"`
		Normals   *run `json:"normals"`
		Indices   run  `json:"indices"`
	}
	type part struct {
		Mesh   int         `json:"mesh"`
		World  [12]float32 `json:"world"`
		Finish int         `json:"finish"`
	}
	type finish struct {
		Colour    [3]float32 `json:"colour"`
		Metallic  float32    `json:"metallic"`
		Roughness float32    `json:"roughness"`
		Clear     bool       `json:"clear"`
		Glow      [3]float32 `json:"glow"`
	}
	var head struct {
		Meshes   []mesh   `json:"meshes"`
		Parts    []part   `json:"parts"`
		Finishes []finish `json:"finishes"`
	}
	var data bytes.Buffer
	put := func(v any, n int) run {
		r := run{data.Len(), n}
		_ = binary.Write(&data, binary.LittleEndian, v) // a Buffer never fails
		return r
	}
	for i := range s.Meshes {
		m := &s.Meshes[i]
		out := mesh{Positions: put(m.Positions, len(m.Positions)*3), Indices: put(m.Indices, len(m.Indices))}
		if len(m.Normals) > 0 {
			r := put(m.Normals, len(m.Normals)*3)
			out.Normals = &r
		}
		head.Meshes = append(head.Meshes, out)
	}
	for i := 0; i <= len(s.Finishes); i++ {
		f := scene.Missing()
		if i < len(s.Finishes) {
			f = s.Finishes[i]
		}
		c := f.Base
		if f.BaseTexture.Image >= 0 { // the shaded view has no textures: their mean colour stands in
			c = c.Mul(s.Images[f.BaseTexture.Image].Mean())
		}
		head.Finishes = append(head.Finishes, finish{
			Colour: [3]float32{c.X, c.Y, c.Z}, Metallic: f.Metallic, Roughness: f.Roughness, Clear: f.Clear(),
			Glow: [3]float32{f.Emission.X, f.Emission.Y, f.Emission.Z},
		})
	}
	for i, p := range s.Parts {
		f := p.Finish
		if f < 0 {
			f = len(s.Finishes)
		}
		head.Parts = append(head.Parts, part{p.Mesh, [12]float32(s.World(i)), f})
	}
	j, _ := json.Marshal(head) // numbers that the importer let through are finite
	// Arrays of numbers have to begin at a multiple of their size to be used where they lie.
	for len(j)%4 != 0 {
		j = append(j, ' ')
	}
	out := binary.LittleEndian.AppendUint32(nil, uint32(len(j)))
	return append(append(out, j...), data.Bytes()...)
}
