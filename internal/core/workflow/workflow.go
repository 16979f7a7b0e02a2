// Package workflow knows who may do what, and which states a change goes through on
// its way to colleagues.
//
// A right is asked for by role and act (May). Some choices of a site widen it: that
// editors publish, that approvers publish their own work. Whether one edition may
// go out is asked with Hinders, which names the first thing in the way. The table of
// steps says how a change gets from one state to the next, and whose hand it takes:
// see Step.
package workflow

// Role is what a person is on the site.
type Role string

// The roles.
const (
	Reader   Role = "reader"
	Editor   Role = "editor"
	Approver Role = "approver"
	Manager  Role = "site manager"
)

// Roles lists them, the one who may least first.
func Roles() []Role { return []Role{Reader, Editor, Approver, Manager} }

// Act is something that wants a right.
type Act string

// The acts.
const (
	Read    Act = "read"
	Plan    Act = "plan"    // entries, moves, menus, redirects
	Write   Act = "write"   // pages
	Publish Act = "publish" // mark ready, publish, roll back
	Shape   Act = "shape"   // templates and shared pieces
	Govern  Act = "govern"  // release addresses, people, settings
)

// Acts lists them.
func Acts() []Act { return []Act{Read, Plan, Write, Publish, Shape, Govern} }

// Site holds the choices of a site that bear on rights.
type Site struct {
	EditorsPublish bool // editors may publish
	OwnWork        bool // approvers may publish what they made themselves
}

// May tells whether a role has the right at all. What it is about may narrow
// it further: see MayPublish.
func (s Site) May(r Role, a Act) bool {
	switch a {
	case Read:
		return r == Reader || r == Editor || r == Approver || r == Manager
	case Plan, Write:
		return r == Editor || r == Approver || r == Manager
	case Publish:
		return r == Editor && s.EditorsPublish || r == Approver || r == Manager
	case Shape:
		return r == Approver || r == Manager
	case Govern:
		return r == Manager
	}
	return false
}

// Hindrance is why an edition cannot be published by somebody; None if it can.
type Hindrance string

// The hindrances, in the order in which they are told.
const (
	None       Hindrance = ""
	NoRight    Hindrance = "no permission"
	OwnChanges Hindrance = "own work" // somebody else has to publish it
	Errors     Hindrance = "errors"   // preflight found some
	Empty      Hindrance = "empty"    // nothing is selected
	Froze      Hindrance = "frozen"   // nothing is published at this time
)

// Hindrances lists them.
func Hindrances() []Hindrance { return []Hindrance{NoRight, Froze, OwnChanges, Errors, Empty} }

// Road is how an edition comes about.
type Road string

// The roads. All of them end in the same release, and pass Hinders before.
const (
	ByHand    Road = ""        // somebody publishes an edition, or one page
	ByDate    Road = "date"    // the date that was given to changes has come; rights were asked for each of them
	ByRestore Road = "restore" // an earlier edition is restored
)

// Roads lists them.
func Roads() []Road { return []Road{ByHand, ByDate, ByRestore} }

// Outgoing is what bears on whether an edition may be published.
type Outgoing struct {
	Road    Road
	Changes int  // that are selected
	Errors  int  // that preflight found
	Own     bool // some of it is the work of the person who publishes
	Frozen  bool // a freeze holds
}

// Hinders tells what stands in the way of a person who publishes an edition. During a freeze a site manager
// may restore an earlier edition, and nothing else is published.
func (s Site) Hinders(r Role, o Outgoing) Hindrance {
	switch {
	case o.Road != ByDate && !s.May(r, Publish):
		return NoRight
	case o.Frozen && (o.Road != ByRestore || r != Manager):
		return Froze
	case o.Road == ByHand && o.Own && r != Manager && !s.OwnWork:
		return OwnChanges
	case o.Errors > 0:
		return Errors
	case o.Changes == 0:
		return Empty
	}
	return None
}
