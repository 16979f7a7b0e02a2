package weblog

import (
	"bytes"
	"cmp"
	"hash/maphash"
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

// Counter counts visits by address in normal form. It keeps a million addresses in some 60 MB:
// what they are called in blocks of a fixed size, and indexes of four bytes. An address that
// was asked for in another form is kept beside its normal one, so that it is worked out once.
type Counter struct {
	seed   maphash.Seed
	blocks [][]byte        // host, NUL, address, one behind the other
	keys   [][]key         // in runs of a fixed size, which never move
	n      int             // of keys
	table  []uint32        // hash → index in keys, plus one
	agents map[string]bool // whether programs are robots, as far as they were met
	Lines  int             // that were read
	Broken int             // of these, that are none of a log
	First  int             // the first of those, counted from 1
}

type key struct {
	block, at uint32
	length, n uint32
	same      uint32 // index of the normal form, plus one; 0: it is normal; none: it is no address
}

const none = 1<<32 - 1

const (
	blockSize = 1 << 20
	runBits   = 13 // a run has 8,192 keys
)

func (c *Counter) key(i int) *key { return &c.keys[i>>runBits][i&(1<<runBits-1)] }

// longestKey is the longest address that is counted; nobody types longer ones.
const longestKey = 4096

// NewCounter makes one.
func NewCounter() *Counter {
	return &Counter{seed: maphash.MakeSeed(), table: make([]uint32, 1<<12), agents: map[string]bool{}}
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
		c.count(h.Host, h.Address)
	}
}

func (c *Counter) count(host, addr []byte) {
	i, met := c.find(host, addr)
	if !met {
		c.key(i).same = c.normal(host, addr, uint32(i)) //nolint:gosec // as in keep
	}
	switch same := c.key(i).same; same {
	case 0:
		c.key(i).n++
	case none:
	default:
		c.key(int(same-1)).n++
	}
}

// normal gives what the field same is for the key at an index.
func (c *Counter) normal(host, addr []byte, at uint32) uint32 {
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
	if uint32(i) == at { //nolint:gosec // as in keep
		return 0
	}
	return uint32(i) + 1 //nolint:gosec // as in keep
}

// find gives the index of a key, which is made where there is none.
func (c *Counter) find(host, addr []byte) (i int, met bool) {
	var h maphash.Hash
	h.SetSeed(c.seed)
	_, _ = h.Write(host)
	_ = h.WriteByte(0)
	_, _ = h.Write(addr)
	mask := uint64(len(c.table) - 1)
	for i := h.Sum64() & mask; ; i = (i + 1) & mask {
		at := c.table[i]
		if at == 0 {
			c.table[i] = c.keep(host, addr)
			break
		}
		if c.is(c.key(int(at-1)), host, addr) {
			return int(at - 1), true
		}
	}
	if c.n*4 > len(c.table)*3 {
		c.grow()
	}
	return c.n - 1, false
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

func (c *Counter) bytes(k *key) []byte { return c.blocks[k.block][k.at : k.at+k.length] }

func (c *Counter) is(k *key, host, addr []byte) bool {
	b := c.bytes(k)
	return len(b) == len(host)+1+len(addr) && b[len(host)] == 0 && bytes.Equal(b[:len(host)], host) && bytes.Equal(b[len(host)+1:], addr)
}

// keep stores a new key, and gives its index plus one.
func (c *Counter) keep(host, addr []byte) uint32 {
	length := len(host) + 1 + len(addr)
	if n := len(c.blocks); n == 0 || len(c.blocks[n-1])+length > blockSize {
		c.blocks = append(c.blocks, make([]byte, 0, blockSize))
	}
	last := len(c.blocks) - 1
	b := c.blocks[last]
	k := key{uint32(last), uint32(len(b)), uint32(length), 0, 0} //nolint:gosec // within a block
	c.blocks[last] = append(append(append(b, host...), 0), addr...)
	if c.n&(1<<runBits-1) == 0 {
		c.keys = append(c.keys, make([]key, 0, 1<<runBits))
	}
	run := &c.keys[len(c.keys)-1]
	*run = append(*run, k)
	c.n++
	return uint32(c.n) //nolint:gosec // four thousand million addresses are no log
}

func (c *Counter) grow() {
	c.table = make([]uint32, 2*len(c.table))
	mask := uint64(len(c.table) - 1)
	for i := range c.n {
		at := maphash.Bytes(c.seed, c.bytes(c.key(i))) & mask
		for c.table[at] != 0 {
			at = (at + 1) & mask
		}
		c.table[at] = uint32(i + 1) //nolint:gosec // as in keep
	}
}

// All gives what was visited, the most visited first. What is no address is left out.
func (c *Counter) All() iter.Seq[Visits] {
	order := make([]uint32, 0, c.n)
	for i := range c.n {
		if c.key(i).n > 0 {
			order = append(order, uint32(i)) //nolint:gosec // as in keep
		}
	}
	slices.SortFunc(order, func(a, b uint32) int {
		x, y := c.key(int(a)), c.key(int(b))
		if by := cmp.Compare(y.n, x.n); by != 0 {
			return by
		}
		hostX, addrX := c.parts(x)
		hostY, addrY := c.parts(y)
		return cmp.Or(bytes.Compare(addrX, addrY), bytes.Compare(hostX, hostY))
	})
	return func(yield func(Visits) bool) {
		for _, i := range order {
			k := c.key(int(i))
			host, addr := c.parts(k)
			if !yield(Visits{string(addr), string(host), int(k.n)}) {
				return
			}
		}
	}
}

func (c *Counter) parts(k *key) (host, addr []byte) {
	host, addr, _ = bytes.Cut(c.bytes(k), []byte{0})
	return host, addr
}
