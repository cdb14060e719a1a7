package main

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"amberproof/demo"
	"amberproof/tools/stages"
)

// setup is a picture to be cleaned: a scene, and what its ticket says besides the
// binary's own defaults.
type setup struct {
	name    string
	scene   func() ([]byte, error)
	file    string         // of the scene
	ready   string         // file of a ready ticket of the demo; empty: a new one
	changes map[string]any // by path into the ticket
}

var setups = []setup{
	{name: "hero", scene: demo.Scene, file: demo.SceneFile, ready: "ticket-hero_three_quarter.json"},
	{name: "hero in clay", scene: demo.Scene, file: demo.SceneFile, ready: "ticket-hero_three_quarter_clay.json"},
	{name: "burner", scene: demo.Scene, file: demo.SceneFile, ready: "ticket-burner_detail.json"},
	{name: "window", scene: stages.Window, file: "window.gltf", changes: map[string]any{"stage.surround.on": false, "quality.diffuse": 6}},
	{name: "machine", scene: stages.Machine, file: "machine.gltf", changes: map[string]any{"stage.surround.picture.name": demo.SurroundFile}},
	{name: "cloth", scene: stages.Cloth, file: "cloth.gltf", changes: map[string]any{"stage.surround.tone": 0.15}},
	// No choice of a constant was made on those from here on.
	{name: "front", scene: demo.Scene, file: demo.SceneFile, ready: "ticket-front.json",
		changes: map[string]any{"stage.surround.kind": "sky", "stage.surround.strength": 0.0001}},
	{name: "lattice", scene: stages.Lattice, file: "lattice.gltf", changes: map[string]any{"stage.surround.tone": 0.1}},
	{name: "caustics", scene: stages.Caustics, file: "caustics.gltf", changes: map[string]any{"stage.surround.tone": 0.05}},
	{name: "machine in clay", scene: stages.Machine, file: "machine.gltf",
		changes: map[string]any{"surface.mode": "clay", "stage.surround.tone": 0.6, "view.lens.on": true, "view.lens.fStop": 1.4}},
	{name: "cloth under a sky", scene: stages.Cloth, file: "cloth.gltf",
		changes: map[string]any{"stage.surround.kind": "sky", "stage.surround.sun": 15, "stage.surround.strength": 0.0001}},
}

// choose finds set-ups by name; all for an empty list.
func choose(list string) ([]setup, error) {
	if list == "" {
		return setups, nil
	}
	var out []setup
	for _, want := range strings.Split(list, ",") {
		found := false
		for _, s := range setups {
			if s.name == strings.TrimSpace(want) {
				out, found = append(out, s), true
			}
		}
		if !found {
			return nil, fmt.Errorf("there is no set-up %q", want)
		}
	}
	return out, nil
}

// write lays a set-up's files into a folder: its scene, and the studio picture.
func (s *setup) write(dir string) error {
	raw, err := s.scene()
	if err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(dir, s.file), raw, 0o600); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(dir, demo.SurroundFile), demo.Surround(), 0o600)
}

// Seeds of references and of what is held against them: with one seed a picture would
// be made of samples that its reference is made of too, and look better than it is.
const (
	seedOfTruth = 1001
	seedOfTests = 1
)

// ticket is the set-up's ticket as a binary understands it, for square pictures of a
// side, a fixed number of samples and a seed. It is made of the binary's own defaults, so that
// an older one can be held against a newer. Nothing is clamped: what a clamp takes depends on
// how light is sampled.
func (s *setup) ticket(bin, dir string, side, samples, seed int) ([]byte, error) {
	var raw []byte
	var err error
	if s.ready == "" {
		raw, err = output(bin, "ticket", "--new", "--scene", filepath.Join(dir, s.file))
	} else {
		of := sha256.Sum256([]byte(bin)) // two may have one name
		own := filepath.Join(dir, "own-"+hex.EncodeToString(of[:6]))
		if _, err := os.Stat(own); err != nil {
			if _, err := output(bin, "demo", "--out", own); err != nil {
				return nil, err
			}
		}
		raw, err = os.ReadFile(filepath.Join(own, s.ready))
	}
	if err != nil {
		return nil, err
	}
	var t map[string]any
	if err := json.Unmarshal(raw, &t); err != nil {
		return nil, fmt.Errorf("the ticket of %s: %w", bin, err)
	}
	all := map[string]any{
		"view.width": side, "view.height": side, "view.scale": 100, "quality.least": samples, "quality.most": samples,
		"quality.noise": 0, "quality.clamp": 0, "quality.seed": seed,
		"passes.lights": false, "passes.finishMasks": false, "passes.occlusion.on": false,
		"output.layers": "one", "output.depth": "float", "output.png": "none", "output.compression": "none", "output.name": "{pass}",
	}
	for k, v := range s.changes {
		all[k] = v
	}
	for path, v := range all {
		if err := put(t, path, v); err != nil {
			return nil, err
		}
	}
	return json.Marshal(t)
}

// put sets a value in a document by its path, which must be there.
func put(t map[string]any, path string, v any) error {
	words := strings.Split(path, ".")
	for _, w := range words[:len(words)-1] {
		next, ok := t[w].(map[string]any)
		if !ok {
			return fmt.Errorf("the ticket has no %s", path)
		}
		t = next
	}
	last := words[len(words)-1]
	if _, ok := t[last]; !ok {
		return fmt.Errorf("the ticket has no %s", path)
	}
	t[last] = v
	return nil
}

// output runs a binary and returns what it prints.
func output(bin string, args ...string) ([]byte, error) {
	c := exec.Command(bin, args...)
	var said strings.Builder
	c.Stderr = &said
	out, err := c.Output()
	if err != nil {
		return nil, fmt.Errorf("%s %s: %w\n%s", bin, strings.Join(args, " "), err, said.String())
	}
	return out, nil
}
