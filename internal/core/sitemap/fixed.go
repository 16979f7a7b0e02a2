package sitemap

import (
	"fmt"

	"candlepath/internal/core/address"
)

// FixedError says why a page cannot have an address on purpose.
type FixedError struct{ Problem string }

func (e *FixedError) Error() string { return e.Problem }

// KeepAddress gives a page an address on purpose, which no longer follows from its place; what
// is below it follows from that. An empty address gives it up.
func (t *Tree) KeepAddress(id, addr string) (*Tree, error) {
	i := t.Find(id)
	switch {
	case i == None:
		return nil, ErrNoEntry
	case i == t.home:
		return nil, ErrHome
	case !t.entries[i].Kind.IsPage():
		return nil, &FixedError{"Only a page has an address."}
	case addr == "":
		return t.Change(id, func(e *Entry) { e.Fixed = "" })
	}
	normal, err := address.Normal(addr)
	if err != nil {
		return nil, &FixedError{fmt.Sprintf("%q is not an address. It begins with a slash.", addr)}
	}
	if address.Reserved(normal) {
		return nil, &FixedError{address.Written(normal) + " is the program's own."}
	}
	if by := t.ClaimedBy(normal); by != None && by != i {
		return nil, &FixedError{fmt.Sprintf("%q has the address %s now.", t.entries[by].Title, address.Written(normal))}
	}
	return t.Change(id, func(e *Entry) { e.Fixed = normal })
}
