package codec

import (
	"context"
	_ "embed"
	"fmt"
)

//go:embed meshopt.wasm
var meshoptWasm []byte

var meshopt = &sandbox{wasm: meshoptWasm}

// The modes and filters of EXT_meshopt_compression, and what decodes them.
var (
	meshoptModes = map[string]string{"ATTRIBUTES": "meshopt_decodeVertexBuffer", "TRIANGLES": "meshopt_decodeIndexBuffer",
		"INDICES": "meshopt_decodeIndexSequence"}
	meshoptFilters = map[string]string{"": "", "NONE": "", "OCTAHEDRAL": "meshopt_decodeFilterOct", "QUATERNION": "meshopt_decodeFilterQuat",
		"EXPONENTIAL": "meshopt_decodeFilterExp"}
)

// Meshopt unpacks count elements of stride bytes each; mode and filter are those of the
// extension. count x stride must have been found affordable.
func Meshopt(ctx context.Context, packed []byte, count, stride int, mode, filter string) ([]byte, error) {
	decode, ok := meshoptModes[mode]
	sift, ok2 := meshoptFilters[filter]
	switch {
	case !ok || !ok2:
		return nil, fmt.Errorf("%w: there is no mode %q with filter %q", ErrDamaged, mode, filter)
	case mode == "ATTRIBUTES" && (stride < 1 || stride > 256 || stride%4 != 0), mode != "ATTRIBUTES" && stride != 2 && stride != 4,
		mode == "TRIANGLES" && count%3 != 0, count < 0, int64(count+4)*int64(stride)+int64(len(packed)) > MostMemory/2,
		// What a filter reads: four numbers of one or two bytes, of two, and any of four.
		filter == "OCTAHEDRAL" && stride != 4 && stride != 8, filter == "QUATERNION" && stride != 8:
		return nil, fmt.Errorf("%w: %d elements of %d bytes cannot be %s", ErrDamaged, count, stride, mode)
	case count == 0:
		return nil, nil
	}
	m, err := meshopt.open(ctx)
	if err != nil {
		return nil, err
	}
	defer func() { _ = m.Close(ctx) }() // there is nothing left to lose
	c := &calls{ctx: ctx, m: m}
	c.call("__wasm_call_ctors")
	four := uint64(count+3) &^ 3
	to := c.call("sbrk", four*uint64(stride))
	from := c.call("sbrk", uint64(len(packed)))
	c.write(from, packed)
	if bad := c.call(decode, uint64(to), uint64(count), uint64(stride), uint64(from), uint64(len(packed))); bad != 0 && c.err == nil {
		return nil, ErrDamaged
	}
	if sift != "" {
		c.call(sift, uint64(to), four, uint64(stride))
	}
	return c.read(to, uint32(count*stride)), c.err
}
