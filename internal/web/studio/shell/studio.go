package shell

// What a session holds: who signed in, and when.
const (
	SessionPerson = "person"
	SessionSince  = "since"
)
