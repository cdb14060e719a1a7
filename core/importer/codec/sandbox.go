// Package codec unpacks geometry that is packed by either of the open extensions of
// glTF 2.0: KHR_draco_mesh_compression and EXT_meshopt_compression. The codecs are their
// makers' own WebAssembly builds (tools/codecs/extract.mjs takes them out of their npm
// packages), run in a sandbox: they see nothing but the bytes they are given, and may
// take no more than MostMemory.
package codec

import (
	"context"
	"errors"
	"fmt"
	"sync"

	"github.com/tetratelabs/wazero"
	"github.com/tetratelabs/wazero/api"
)

// MostMemory is what a codec may take while it unpacks one piece, in bytes.
const MostMemory = 512 << 20

// page is how many bytes WebAssembly counts its memory in.
const page = 1 << 16

// ErrDamaged is wrapped by every error about packed bytes.
var ErrDamaged = errors.New("the packed geometry is damaged, or too large")

// sandbox is a codec, compiled when it is first needed.
type sandbox struct {
	wasm    []byte
	imports func(context.Context, wazero.Runtime) error // what the build wants of its host

	once     sync.Once
	runtime  wazero.Runtime
	compiled wazero.CompiledModule
	err      error
}

// open is a fresh instance, with memory of its own, to be closed.
func (s *sandbox) open(ctx context.Context) (api.Module, error) {
	s.once.Do(func() {
		// Compiling is for all who come after, so it does not end with who came first.
		ctx := context.WithoutCancel(ctx)
		s.runtime = wazero.NewRuntimeWithConfig(ctx, wazero.NewRuntimeConfig().WithMemoryLimitPages(MostMemory/page).WithCloseOnContextDone(true))
		if s.imports != nil {
			if s.err = s.imports(ctx, s.runtime); s.err != nil {
				return
			}
		}
		s.compiled, s.err = s.runtime.CompileModule(ctx, s.wasm)
	})
	if s.err != nil {
		return nil, fmt.Errorf("a codec cannot be made ready: %w", s.err)
	}
	// Without a name many can be open at a time.
	return s.runtime.InstantiateModule(ctx, s.compiled, wazero.NewModuleConfig().WithName("").WithStartFunctions())
}

// calls are calls into an instance; after one that failed the rest do nothing.
type calls struct {
	ctx context.Context
	m   api.Module
	err error
}

func (c *calls) call(name string, args ...uint64) uint32 {
	if c.err != nil {
		return 0
	}
	f := c.m.ExportedFunction(name)
	if f == nil {
		c.err = fmt.Errorf("the codec has no %q", name)
		return 0
	}
	out, err := f.Call(c.ctx, args...)
	switch {
	case err != nil && c.ctx.Err() != nil:
		c.err = c.ctx.Err()
	case err != nil:
		c.err = ErrDamaged // it ran into a trap of its own, or out of memory
	}
	if c.err != nil || len(out) == 0 {
		return 0
	}
	return uint32(out[0])
}

// write puts bytes into the instance's memory.
func (c *calls) write(at uint32, b []byte) {
	if c.err == nil && !c.m.Memory().Write(at, b) {
		c.err = ErrDamaged
	}
}

// read copies bytes out of the instance's memory.
func (c *calls) read(at, n uint32) []byte {
	if c.err != nil {
		return nil
	}
	b, ok := c.m.Memory().Read(at, n)
	if !ok {
		c.err = ErrDamaged
		return nil
	}
	return append([]byte(nil), b...)
}
