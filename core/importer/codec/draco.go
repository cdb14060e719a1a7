package codec

import (
	"context"
	_ "embed"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/tetratelabs/wazero"
	"github.com/tetratelabs/wazero/api"
)

//go:embed draco.wasm
var dracoWasm []byte

//go:embed draco.json
var dracoNames []byte

var draco = &sandbox{wasm: dracoWasm, imports: dracoHost}

// dracoExports are the names that the build has for what it exports.
var dracoExports = func() (names map[string]string) {
	if err := json.Unmarshal(dracoNames, &names); err != nil {
		panic(err) // a file of our own, found by any test
	}
	return names
}()

// errThrown ends a call that throws, as C++ does where it runs out of memory.
var errThrown = errors.New("the codec gave up")

// dracoHost is what the build asks its host for: memory, and nothing else that it gets.
// Its names are those of the minified build.
func dracoHost(ctx context.Context, r wazero.Runtime) error {
	i32 := api.ValueTypeI32
	b := r.NewHostModuleBuilder("a")
	give := func(name string, params int, result bool, f func(m api.Module, stack []uint64)) {
		p := make([]api.ValueType, params)
		for i := range p {
			p[i] = i32
		}
		var out []api.ValueType
		if result {
			out = []api.ValueType{i32}
		}
		b.NewFunctionBuilder().WithGoModuleFunction(api.GoModuleFunc(func(_ context.Context, m api.Module, stack []uint64) { f(m, stack) }), p, out).Export(name)
	}
	give("a", 3, false, func(api.Module, []uint64) { panic(errThrown) })                // an exception is thrown
	give("e", 0, false, func(api.Module, []uint64) { panic(errThrown) })                // it aborts
	give("d", 1, true, func(_ api.Module, s []uint64) { s[0] = 52 })                    // a file is closed: there are none
	give("b", 4, true, func(_ api.Module, s []uint64) { s[0] = 52 })                    // a file is written
	give("c", 1, true, func(m api.Module, s []uint64) { s[0] = grow(m, uint32(s[0])) }) // the heap is to grow
	_, err := b.Instantiate(ctx)
	return err
}

// grow brings a memory to a size in bytes, or says 0 where it may not.
func grow(m api.Module, size uint32) uint64 {
	have := m.Memory().Size()
	if size <= have {
		return 1
	}
	if _, ok := m.Memory().Grow((size - have + page - 1) / page); !ok {
		return 0
	}
	return 1
}

// Kind is a type of numbers, by the codec's own number for it.
type Kind uint64

const (
	Int8    Kind = 1
	Uint8   Kind = 2
	Int16   Kind = 3
	Uint16  Kind = 4
	Uint32  Kind = 6
	Float32 Kind = 9
)

// size is how many bytes a number has.
func (k Kind) size() int {
	switch k {
	case Int8, Uint8:
		return 1
	case Int16, Uint16:
		return 2
	}
	return 4
}

// Attribute asks for an attribute of a mesh by its unique number, as so many numbers of
// a kind for each point.
type Attribute struct {
	ID    int
	Kind  Kind
	Width int
}

// Mesh is what was unpacked: corners of triangles, and for each attribute that was asked
// for its numbers, little-endian, one point after the other.
type Mesh struct {
	Points     int
	Corners    []uint32
	Attributes [][]byte
}

// Draco unpacks a mesh. most bounds its points and its triangles.
func Draco(ctx context.Context, packed []byte, want []Attribute, most int) (*Mesh, error) {
	if len(packed) == 0 || len(packed) > MostMemory/4 {
		return nil, ErrDamaged
	}
	m, err := draco.open(ctx)
	if err != nil {
		return nil, err
	}
	defer func() { _ = m.Close(ctx) }() // there is nothing left to lose
	c := &calls{ctx: ctx, m: m}
	call := func(name string, args ...uint64) uint32 { return c.call(dracoExports[name], args...) }
	c.call(dracoStart)
	from := call("malloc", uint64(len(packed)))
	c.write(from, packed)
	decoder, mesh := call("Decoder_Decoder_0"), call("Mesh_Mesh_0")
	status := call("Decoder_DecodeArrayToMesh_3", uint64(decoder), uint64(from), uint64(len(packed)), uint64(mesh))
	if ok := call("Status_ok_0", uint64(status)); c.err != nil || ok&0xff == 0 {
		return nil, or(c.err, ErrDamaged)
	}
	faces, points := int(call("Mesh_num_faces_0", uint64(mesh))), int(call("Mesh_num_points_0", uint64(mesh)))
	if faces < 0 || points < 0 || faces > most || points > 3*most {
		return nil, fmt.Errorf("%w: %d triangles are more than the limit of %d", ErrDamaged, faces, most)
	}
	out := &Mesh{Points: points}
	b := c.taken(faces*12, func(to uint32, n int) uint32 {
		return call("Decoder_GetTrianglesUInt32Array_3", uint64(decoder), uint64(mesh), uint64(n), uint64(to))
	})
	out.Corners = make([]uint32, len(b)/4)
	for i := range out.Corners {
		out.Corners[i] = binary.LittleEndian.Uint32(b[4*i:])
	}
	for _, a := range want {
		at := call("Decoder_GetAttributeByUniqueId_2", uint64(decoder), uint64(mesh), uint64(a.ID))
		if at == 0 || int(call("PointAttribute_num_components_0", uint64(at))&0xff) != a.Width {
			return nil, or(c.err, fmt.Errorf("%w: attribute %d is not there with %d numbers a point", ErrDamaged, a.ID, a.Width))
		}
		out.Attributes = append(out.Attributes, c.taken(points*a.Width*a.Kind.size(), func(to uint32, n int) uint32 {
			return call("Decoder_GetAttributeDataArrayForAllPoints_5", uint64(decoder), uint64(mesh), uint64(at), uint64(a.Kind), uint64(n), uint64(to))
		}))
	}
	return out, c.err
}

// dracoStart runs what the build has to do first.
const dracoStart = "g"

func or(a, b error) error {
	if a != nil {
		return a
	}
	return b
}

// taken has a function of the codec fill n bytes, and copies them out.
func (c *calls) taken(n int, fill func(to uint32, n int) uint32) []byte {
	if n == 0 || c.err != nil {
		return nil
	}
	to := c.call(dracoExports["malloc"], uint64(n))
	if to == 0 && c.err == nil {
		c.err = ErrDamaged
	}
	if ok := fill(to, n); ok&0xff == 0 && c.err == nil {
		c.err = ErrDamaged
	}
	b := c.read(to, uint32(n))
	c.call(dracoExports["free"], uint64(to))
	return b
}
