package ticket

import "strings"

// What a remark can be about besides a part: a light or a finish by its name, or one of these.
const backing = "backing"

// topics are what settings of a ticket are about, by how their paths begin; the first that
// fits decides.
var topics = []struct{ path, topic string }{
	{"view.exposure", "exposure"},
	{"view.lens", "depth of field"},
	{"view.motion", "motion"},
	{"view.display", "display transform"},
	{"view.", "view and size"},
	{"stage.surround", "surround"},
	{"stage.catcher", "shadow floor"},
	{"stage.", backing},
	{"surface.clay.crevices", "crevices"},
	{"surface.clay.lines", "edge lines"},
	{"surface.clay", "clay"},
	{"surface.variant", "variant"},
	{"surface.shapes", "shape of surfaces"},
	{"quality.", "noise and samples"},
}

// topicOf is what the setting at a path is about; empty where nobody remarks on it.
func topicOf(path string) string {
	for _, s := range topics {
		if strings.HasPrefix(path, s.path) {
			return s.topic
		}
	}
	return ""
}

// entryOf is what an entry of a list is about.
func entryOf(path, name string) string {
	if path == "stage.lights" {
		return OfLight(name)
	}
	return topicOf(path)
}

// OfLight and OfFinish are what is about a light and a finish.
func OfLight(name string) string  { return "light " + name }
func OfFinish(name string) string { return "finish " + name }

// Topics are what a remark on a picture with such lights and finishes can be about.
func Topics(lights, finishes []string) (out []string) {
	for _, l := range lights {
		out = append(out, OfLight(l))
	}
	for _, f := range finishes {
		out = append(out, OfFinish(f))
	}
	for _, s := range topics {
		out = append(out, s.topic)
	}
	return out
}

// about has all differences be about one topic.
func about(topic string, all []Difference) []Difference {
	for i := range all {
		all[i].Topic = topic
	}
	return all
}
