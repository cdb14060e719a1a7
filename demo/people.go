package demo

// Project is the demo's campaign.
const Project = "Pellwick"

// Person is somebody of the demo's house; the role is lead, td, artist or reviewer.
type Person struct{ Name, Role, Mail string }

// People are the demo's house, its lead first.
var People = []Person{
	{"Mara Tellwick", "lead", "mara@tellwick.example"},
	{"Osric Fenmoor", "td", "osric@tellwick.example"},
	{"Juno Brandle", "artist", "juno@tellwick.example"},
	{"Ottilie Harrowgate", "reviewer", "ottilie@pellwick.example"},
}
