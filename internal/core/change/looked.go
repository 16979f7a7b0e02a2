package change

import (
	"crypto/sha256"
	"encoding/base64"
	"encoding/binary"
	"slices"
	"strings"
)

// Reviewed is what somebody had before them when they chose: a number for the
// state of each planned change. It travels in their form.
type Reviewed map[uint64]bool

// NotPlanned stands for the state of a change that is no longer planned.
var NotPlanned = State{Mark: "gone"}

// Review gives what somebody sees who has all changes before them, with what
// happened beneath their choice.
func Review(all []Change, state func(Key) State, beneath []ChangedSince) Reviewed {
	l := make(Reviewed, len(all))
	for _, c := range all {
		if c.Aspect != Readdressed {
			l[looked(c.Key, state(c.Key))] = true
		}
	}
	for _, b := range beneath {
		if b.What == Went {
			l[looked(b.Key, NotPlanned)] = true
		}
	}
	return l
}

// At tells whether a change was seen in a state.
func (l Reviewed) At(k Key, s State) bool { return l[looked(k, s)] }

func looked(k Key, s State) uint64 {
	sum := sha256.Sum256([]byte(strings.Join([]string{k.ID, string(k.Aspect), s.Mark}, "\x00")))
	return binary.BigEndian.Uint64(sum[:])
}

// Moved gives the title of the first chosen change that is not as it was when
// somebody looked, or that is no longer planned; false if there is none.
func (l Reviewed) Moved(all []Change, state func(Key) State, chosen Set, beneath []ChangedSince) (string, bool) {
	for _, c := range all {
		if !chosen[c.Key] || c.Aspect == Readdressed {
			continue
		}
		if s := state(c.Key); !l.At(c.Key, s) {
			return s.Title, true
		}
	}
	for _, b := range beneath {
		if b.What == Went {
			return b.Title, true
		}
	}
	return "", false
}

// Text writes it for a form; ParseLooked reads it.
func (l Reviewed) Text() string {
	numbers := make([]uint64, 0, len(l))
	for n := range l {
		numbers = append(numbers, n)
	}
	slices.Sort(numbers)
	b := make([]byte, 0, 8*len(numbers))
	for _, n := range numbers {
		b = binary.BigEndian.AppendUint64(b, n)
	}
	return base64.RawURLEncoding.EncodeToString(b)
}

// ParseReviewed reads what Text wrote; what it does not understand was not seen.
func ParseReviewed(s string) Reviewed {
	b, _ := base64.RawURLEncoding.DecodeString(s)
	l := Reviewed{}
	for ; len(b) >= 8; b = b[8:] {
		l[binary.BigEndian.Uint64(b)] = true
	}
	return l
}
