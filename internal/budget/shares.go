package budget

// Shares are how the memory of the machine is shared out, in bytes. They add up to all of
// it: what one of them does not use is not lent to another, so that none can be pushed out.
type Shares struct {
	All       int64
	Run       int64 // the run that goes
	Work      int64 // reading, checking and drawing scenes and pictures
	Scenes    int64 // scenes that are kept open
	Surrounds int64 // environment pictures, and
	Pictures  int64 // pictures on finishes, that are kept open
	Films     int64 // films of runs that are looked at
	Cleaned   int64 // the same with their noise taken out
	Live      int64 // live pictures
	Probe     int64 // pictures of which a probe is made before they are rendered
	Rest      int64 // pictures packed for the browser, and the program itself
}

// Of shares out so many bytes.
func Of(all int64) Shares {
	s := Shares{
		All: all, Work: all / 5, Scenes: all / 12, Surrounds: all / 24, Pictures: all / 24,
		Films: all / 10, Cleaned: all / 20, Live: all / 7, Probe: all / 16, Rest: all / 24,
	}
	s.Run = all - s.Work - s.Scenes - s.Surrounds - s.Pictures - s.Films - s.Cleaned - s.Live - s.Probe - s.Rest
	return s
}
