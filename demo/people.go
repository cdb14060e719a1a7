package demo

// Project is the demo's campaign.
const Project = "Pellwick"

// Person is somebody of the demo's house; the role is lead, td, artist or reviewer.
type Person struct{ Name, Role string }

// People are the demo's house, its lead first.
var People = []Person{
	{"Mara Tellwick", "lead"},
	{"Osric Fenmoor", "td"},
	{"Juno Brandle", "artist"},
	{"Ottilie Harrowgate", "reviewer"},
}
