package identity

// What people want to be told of by mail.
const (
	Answers = "answers" // that are waited for
	Remarks = "remarks" // answers to what they put up, remarks on it, and those that name them
	Runs    = "runs"    // of theirs that came to an end
)

// Wants are all of them.
var Wants = []string{Answers, Remarks, Runs}
