package weblog

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"iter"
	"slices"

	"candlepath/internal/core/address"
)

// Visits is how often an address of a host was visited.
type Visits struct {
	Address string // normal, with a query its parameters sorted
	Host    string // empty: the logs do not say
	N       int
}

// Counter counts visits by address in normal form. It keeps a million addresses in some 50 MB:
// each as the number of its folder and its last segment, and one number for its visits. An
// address that was asked for in another form is kept beside its normal one, so that it is
// worked out once.
type Counter struct {
	folders texts           // host, NUL, and the address to its last slash
	keys    texts           // number of the folder, and the rest of the address
	counts  [][]uint32      // of each key, in runs as its text: its visits, or, with the highest bit, another key or none
	agents  map[string]bool // whether programs are robots, as far as they were met
	room    []byte          // for the text of a key
	Lines   int             // that were read
	Broken  int             // of these, that are none of a log
	First   int             // the first of those, counted from 1
}

const (
	elsewhere = 1 << 31       // with the number of the key in normal form
	none      = 1<<32 - 1     // it is no address
	most      = elsewhere - 1 // visits that are counted
)

func (c *Counter) count(i int) *uint32 { return &c.counts[i>>runBits][i&(runSize-1)] }

// longestKey is the longest address that is counted; nobody types longer ones.
const longestKey = 4096

// NewCounter makes one.
func NewCounter() *Counter {
	return &Counter{folders: newTexts(), keys: newTexts(), agents: map[string]bool{}}
}

// Line takes a line of a log.
func (c *Counter) Line(line []byte) {
	c.Lines++
	line = bytes.TrimRight(line, "\r\n")
	if len(line) == 0 {
		return
	}
	h, ok := Parse(line)
	if !ok {
		if c.Broken++; c.First == 0 {
			c.First = c.Lines
		}
		return
	}
	if h.read() && !c.robot(h.Agent) && len(h.Host)+len(h.Address) < longestKey {
		c.visit(h.Host, h.Address)
	}
}

func (c *Counter) visit(host, addr []byte) {
	i, met := c.find(host, addr)
	if !met {
		*c.count(i) = c.normal(host, addr, i)
	}
	n := c.count(i)
	if *n == none {
		return
	}
	if *n >= elsewhere {
		n = c.count(int(*n - elsewhere))
	}
	if *n < most {
		*n++
	}
}

// normal gives what is to be counted for a new key: no visit yet, or where its visits are.
func (c *Counter) normal(host, addr []byte, at int) uint32 {
	var o address.Options
	form, err := o.Key(string(addr))
	if err != nil {
		return none
	}
	low := bytes.ToLower(host)
	if form == string(addr) && bytes.Equal(low, host) {
		return 0
	}
	i, _ := c.find(low, []byte(form))
	if i == at {
		return 0
	}
	return uint32(i) + elsewhere //nolint:gosec // two thousand million addresses are no log
}

// find gives the number of a key, which is made where there is none.
func (c *Counter) find(host, addr []byte) (i int, met bool) {
	path, _, _ := bytes.Cut(addr, []byte("?"))
	cut := bytes.LastIndexByte(path, '/') + 1
	c.room = append(append(append(c.room[:0], host...), 0), addr[:cut]...)
	folder, _ := c.folders.number(c.room)
	c.room = append(binary.AppendUvarint(c.room[:0], uint64(folder)), addr[cut:]...) //nolint:gosec // not negative
	if i, met = c.keys.number(c.room); met {
		return i, true
	}
	if i&(runSize-1) == 0 {
		c.counts = append(c.counts, make([]uint32, runSize))
	}
	return i, false
}

// mostAgents is how many programs are kept in mind.
const mostAgents = 4096

func (c *Counter) robot(agent []byte) bool {
	is, met := c.agents[string(agent)]
	if !met {
		is = isRobot(agent)
		if len(c.agents) < mostAgents {
			c.agents[string(agent)] = is
		}
	}
	return is
}

// All gives what was visited, the most visited first. What is no address is left out.
func (c *Counter) All() iter.Seq[Visits] {
	c.folders.table, c.keys.table = nil, nil // their room is needed now
	ranks, over := c.ranked()
	order := make([]ranked, 0, c.keys.n)
	for i := range c.keys.n {
		if n := *c.count(i); n > 0 && n < elsewhere {
			folder, _ := binary.Uvarint(c.keys.text(i))
			order = append(order, ranked{ranks[folder], uint32(i)}) //nolint:gosec // as in normal
		}
	}
	slices.SortFunc(order, func(a, b ranked) int {
		x, y := int(a.key), int(b.key)
		if by := cmp.Compare(*c.count(y), *c.count(x)); by != 0 {
			return by
		}
		if a.rank == b.rank || over[min(a.rank, b.rank)] {
			return c.compare(x, y)
		}
		return cmp.Compare(a.rank, b.rank)
	})
	return func(yield func(Visits) bool) {
		for _, at := range order {
			i := int(at.key)
			host, folder, rest := c.parts(i)
			if !yield(Visits{string(folder) + string(rest), string(host), int(*c.count(i))}) {
				return
			}
		}
	}
}

// ranked is a key with the rank of its folder, so that most keys are ordered without a look at their texts.
type ranked struct{ rank, key uint32 }

// ranked gives the rank of each folder by its address, and for each rank whether other folders begin with that address:
// theirs may stand between its own keys.
func (c *Counter) ranked() (ranks []uint32, over []bool) {
	order := make([]int, c.folders.n)
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int {
		_, x := c.folder(a)
		_, y := c.folder(b)
		return bytes.Compare(x, y)
	})
	ranks, over = make([]uint32, len(order)), make([]bool, len(order))
	for rank, i := range order {
		ranks[i] = uint32(rank) //nolint:gosec // as in normal
		if rank > 0 {
			_, before := c.folder(order[rank-1])
			_, at := c.folder(i)
			over[rank-1] = bytes.HasPrefix(at, before)
		}
	}
	return ranks, over
}

// compare orders keys by their addresses, then their hosts, without putting one together.
func (c *Counter) compare(a, b int) int {
	hostA, folderA, restA := c.parts(a)
	hostB, folderB, restB := c.parts(b)
	return cmp.Or(joined(folderA, restA, folderB, restB), bytes.Compare(hostA, hostB))
}

// joined compares two texts of two parts each.
func joined(a, restA, b, restB []byte) int {
	if len(a) > len(b) {
		return -joined(b, restB, a, restA)
	}
	if by := bytes.Compare(a, b[:len(a)]); by != 0 {
		return by
	}
	left := b[len(a):]
	both := min(len(restA), len(left))
	if by := bytes.Compare(restA[:both], left[:both]); by != 0 || both < len(left) {
		return cmp.Or(by, -1)
	}
	return bytes.Compare(restA[both:], restB)
}

// parts are the host of a key, the folder of its address, and the rest of it.
func (c *Counter) parts(i int) (host, folder, rest []byte) {
	text := c.keys.text(i)
	n, used := binary.Uvarint(text)
	host, folder = c.folder(int(n)) //nolint:gosec // it was a number
	return host, folder, text[used:]
}

func (c *Counter) folder(i int) (host, path []byte) {
	host, path, _ = bytes.Cut(c.folders.text(i), []byte{0})
	return host, path
}
