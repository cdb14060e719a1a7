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
	var head struct {
		Meshes []mesh `json:"meshes"`
		Parts  []int  `json:"parts"` // the mesh of each
	}
	var data bytes.Buffer
	put := func(v any, n int) run {
		r := run{data.Len(), n}
		_ = binary.Write(&data, binary.LittleEndian, v) // a Buffer never fails
		return r
	}
	at := map[int]int{} // of the meshes that are worn, where they are in the header
	for _, p := range s.Parts {
		if _, ok := at[p.Mesh]; ok {
			continue
		}
		at[p.Mesh] = len(head.Meshes)
		m := &s.Meshes[p.Mesh]
		out := mesh{Positions: put(m.Positions, len(m.Positions)*3), Indices: put(m.Indices, len(m.Indices))}
		if len(m.Normals) > 0 {
			r := put(m.Normals, len(m.Normals)*3)
			out.Normals = &r
		}
		head.Meshes = append(head.Meshes, out)
	}
	for _, p := range s.Parts {
		head.Parts = append(head.Parts, at[p.Mesh])
	}
	j, _ := json.Marshal(head) // numbers that the importer let through are finite
	// Arrays of numbers have to begin at a multiple of their size to be used where they lie.
	for len(j)%4 != 0 {
		j = append(j, ' ')
	}
	out := binary.LittleEndian.AppendUint32(nil, uint32(len(j)))
	return append(append(out, j...), data.Bytes()...)
}
