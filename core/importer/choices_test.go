package importer

import (
	"context"
	"strings"
	"testing"
)

// Of several files of a name the nearest is taken, whatever order a map has.
func TestTheSameFileIsAlwaysFound(t *testing.T) {
	b := Bundle{
		"set/main.obj": nil, "wood.png": []byte("top"), "set/maps/Wood.png": []byte("maps"), "other/wood.png": []byte("other"),
		"set/other/wood.png": []byte("set other"),
	}
	for range 50 {
		for name, want := range map[string]string{"wood.png": "top", "maps/wood.png": "maps", "../wood.png": "top", "gone/wood.png": "top"} {
			if d, ok := b.find("set/main.obj", name); !ok || string(d) != want {
				t.Fatalf("%s: %q, want %q", name, d, want)
			}
		}
		b["set/WOOD.png"] = []byte("beside")
		if d, _ := b.find("set/main.obj", "wood.png"); string(d) != "beside" {
			t.Fatalf("beside: %q", d)
		}
		delete(b, "set/WOOD.png")
	}
	if _, ok := b.find("set/main.obj", "brick.png"); ok {
		t.Error("found what is not there")
	}
}

// What a finish loses is said as that; an extension that is not known is called so.
func TestNotesSayWhatIsLeftOut(t *testing.T) {
	doc, bin := square()
	doc["images"] = []any{object{"uri": "gone.png"}}
	doc["textures"] = []any{object{"source": 0}}
	at(doc, "materials", 0)["pbrMetallicRoughness"] = object{"baseColorTexture": object{"index": 0}}
	at(doc, "materials", 0)["extensions"] = object{"KHR_materials_pbrSpecularGlossiness": object{"thicknessFactor": "a word where others have a number"}}
	s, err := load(t, doc, bin)
	if err != nil {
		t.Fatal(err)
	}
	all := ""
	for _, n := range s.LeftOut {
		all += n.What + "\n"
	}
	if strings.Contains(all, "cannot be imported") || !strings.Contains(all, "gone.png") {
		t.Errorf("a lost map: %s", all)
	}
	if strings.Contains(all, "damaged") || !strings.Contains(all, "KHR_materials_pbrSpecularGlossiness is not supported") {
		t.Errorf("an unknown extension: %s", all)
	}
}

func TestColoursOfCorners(t *testing.T) {
	s, err := Import(context.Background(), Bundle{"a.obj": []byte("v 0 0 0\nv 1 0 0 1 0.5 0\nv 1 1 0 2 -1 1\no plain\nv " +
		"0 0 1\nv 0 1 1\nv 1 1 1\nf 4 5 6\no painted\nf 1 2 3\n")}, DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	for _, m := range s.Meshes {
		want := [][4]float32{{1, 1, 1, 1}, {1, 0.21404114, 0, 1}, {1, 0, 1, 1}}
		for i, c := range m.Colours {
			for k := range c {
				if d := c[k] - want[i][k]; d > 1e-5 || d < -1e-5 {
					t.Errorf("corner %d: %v, want %v", i, c, want[i])
				}
			}
		}
	}
	if len(s.Meshes[1].Colours) != 3 {
		t.Errorf("%d colours", len(s.Meshes[1].Colours))
	}
}
