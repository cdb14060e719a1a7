package main

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"amberproof/core/imageio"
	"amberproof/core/importer"
	"amberproof/core/scene"
	"amberproof/core/setup"
	"amberproof/core/shelf"
	"amberproof/internal/pipeline"
	"amberproof/internal/ticket"
)

// openScene reads a scene file with whatever lies beside it.
func openScene(ctx context.Context, path string) (*scene.Scene, ticket.SceneRef, error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, ticket.SceneRef{}, err
	}
	b, lim := importer.Bundle{}, importer.DefaultLimits
	name := filepath.Base(path)
	if strings.EqualFold(filepath.Ext(path), ".zip") {
		lim = lim.Packed(int64(len(data)))
		if err := b.AddZip(data, lim); err != nil {
			return nil, ticket.SceneRef{}, err
		}
	} else {
		b[name] = data
		if !strings.EqualFold(filepath.Ext(path), ".glb") {
			if err := addSiblings(b, filepath.Dir(path), name); err != nil {
				return nil, ticket.SceneRef{}, err
			}
		}
	}
	s, err := importer.Import(ctx, b, lim)
	if err != nil {
		return nil, ticket.SceneRef{}, err
	}
	return s, ticket.SceneRef{Name: name, SHA256: b.Checksum()}, nil
}

// addSiblings takes the files a .gltf or .obj may refer to: those in its
// folder and one below, other scenes left out.
func addSiblings(b importer.Bundle, dir, main string) error {
	var size int64
	return filepath.WalkDir(dir, func(p string, d os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		rel, err := filepath.Rel(dir, p)
		if err != nil || rel == main {
			return err
		}
		if d.IsDir() {
			if strings.Count(rel, string(filepath.Separator)) > 0 {
				return filepath.SkipDir
			}
			return nil
		}
		// Pictures and buffers only: a second scene beside the first would make it unclear which
		// is meant.
		switch strings.ToLower(filepath.Ext(p)) {
		case ".bin", ".png", ".jpg", ".jpeg", ".mtl":
		default:
			return nil
		}
		data, err := os.ReadFile(p)
		if err != nil {
			return err
		}
		if size += int64(len(data)); size > importer.DefaultLimits.Bytes {
			return fmt.Errorf("the files beside %s are larger than %s together", main, pipeline.Size(importer.DefaultLimits.Bytes))
		}
		b[filepath.ToSlash(rel)] = data
		return nil
	})
}

// openSurround finds the ticket's environment picture beside the ticket or the scene.
func openSurround(t *ticket.Ticket, dirs ...string) (*imageio.HDR, error) {
	p := &t.Stage.Surround.Picture
	if p.Name == "" || !t.Stage.Surround.On {
		return nil, nil
	}
	for _, d := range dirs {
		data, err := os.ReadFile(filepath.Join(d, filepath.Base(p.Name)))
		if os.IsNotExist(err) {
			continue
		}
		if err != nil {
			return nil, err
		}
		sum := sha256.Sum256(data)
		have := hex.EncodeToString(sum[:])
		if p.SHA256 != "" && p.SHA256 != have {
			return nil, fmt.Errorf("the picture %s is not the one the ticket was made with (checksum %.12s, not %.12s)", p.Name, have, p.SHA256)
		}
		p.SHA256 = have
		return imageio.ReadSurround(data, imageio.DefaultLimits)
	}
	return nil, fmt.Errorf("the environment picture %q is neither beside the ticket nor beside the scene", p.Name)
}

// picturesIn finds pictures of set-ups and tickets by name in some folders, if they have
// the content that is asked for; those of the shelf are always there.
func picturesIn(dirs ...string) func(name, sum string) (*scene.Image, error) {
	found := map[string]*scene.Image{}
	return func(name, sum string) (*scene.Image, error) {
		if sum == "" {
			if img, err := shelf.Picture(name); err == nil {
				return img, nil
			}
		}
		if img := found[name+"\n"+sum]; img != nil {
			return img, nil
		}
		for _, d := range dirs {
			data, err := os.ReadFile(filepath.Join(d, filepath.Base(name)))
			if err != nil {
				continue
			}
			if have := sha256.Sum256(data); sum != "" && sum != hex.EncodeToString(have[:]) {
				continue
			}
			img, err := importer.Picture(name, data, importer.DefaultLimits)
			if err != nil {
				return nil, err
			}
			found[name+"\n"+sum] = img
			return img, nil
		}
		return nil, fmt.Errorf("the picture %q is neither beside the ticket nor beside the scene", name)
	}
}

// mostSetup bounds a set-up's file in bytes.
const mostSetup = 32 << 20

// readSetup takes the set-up of a file, or that of a resolved ticket; without either
// it changes nothing.
func readSetup(path string, of *ticket.Resolved) (u setup.Setup, err error) {
	if of != nil && of.Setup != nil {
		if path != "" {
			return u, fmt.Errorf("the resolved ticket has a set-up of its own; leave --setup out")
		}
		return *of.Setup, nil
	}
	if path == "" {
		return u, nil
	}
	st, err := os.Stat(path)
	if err != nil {
		return u, err
	}
	if st.Size() > mostSetup {
		return u, fmt.Errorf("%s is larger than %s; that is no set-up", path, pipeline.Size(mostSetup))
	}
	data, err := os.ReadFile(path)
	if err != nil {
		return u, err
	}
	if u, err = setup.Decode(data); err != nil {
		return u, fmt.Errorf("%s: %w", path, err)
	}
	if faults := ticket.CheckSetup(&u); len(faults) > 0 {
		return u, fmt.Errorf("%s: %s", path, faults[0])
	}
	return u, nil
}
