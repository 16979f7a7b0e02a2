package menu

import (
	"errors"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strings"
	"unicode/utf8"

	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// The menus of a site. The side menu of a branch has an id of its own.
const (
	Top  = "top"
	Foot = "foot"

	sidePrefix = "side:"
)

// Side is the id of the side menu of the branch of an entry.
func Side(branch string) string { return sidePrefix + branch }

// Branch is the entry whose branch a side menu is for; "" for other menus.
func Branch(id string) string {
	branch, _ := strings.CutPrefix(id, sidePrefix)
	if branch == id {
		return ""
	}
	return branch
}

// Overrides is what editors made of a menu. What it does not speak of stays computed,
// so the zero Own is a menu as the sitemap makes it.
//
//	computed        an Own that moves Visit first, leaves Science out and
//	                adds a label with a link below
//	Home            Visit
//	Science         Home
//	Visit           Elsewhere
//	                  Weather ↗
type Overrides struct {
	Of     string `json:"of,omitempty"`     // entry whose children it shows; "": as the menu is by nature
	Levels int    `json:"levels,omitempty"` // of them; 0: by nature, Nothing: none
	AZ     bool   `json:"az,omitempty"`     // siblings by title, not in the order of the sitemap
	Wait   bool   `json:"wait,omitempty"`   // new pages wait until they are let in

	Items map[string]ItemOverride `json:"items,omitempty"` // by key
	Order map[string][]string     `json:"order,omitempty"` // keys of what was arranged below a key; "" is the menu itself
}

// Owns are the menus that editors took over, by id.
type Owns map[string]Overrides

// Nothing is the number of levels that shows nothing below an item.
const Nothing = -1

// Kind tells what an item of an editor's is.
type Kind string

// The kinds of item. What is said about a computed item has no kind.
const (
	AnEntry  Kind = "entry"
	Children Kind = "children" // what is below an entry, without the entry
	Label    Kind = "label"    // words with items below
	Link     Kind = "link"     // leads out of the site
	Divider  Kind = "divider"
)

// ItemOverride is an item of an editor's, or what an editor said about a computed one.
type ItemOverride struct {
	Kind   Kind   `json:"kind,omitempty"`
	Entry  string `json:"entry,omitempty"`
	Title  string `json:"title,omitempty"` // in place of the entry's
	URL    string `json:"url,omitempty"`
	Symbol string `json:"symbol,omitempty"`
	Out    bool   `json:"out,omitempty"`    // left out
	In     bool   `json:"in,omitempty"`     // let in, where new pages wait
	Levels int    `json:"levels,omitempty"` // that it shows below itself; 0: as the menu has it, Nothing: none
}

// MostItems is how many items of an editor's a menu holds; LongestLabel is in
// characters.
const (
	MostItems    = 500
	LongestLabel = 200
)

// The reasons for which an item cannot be had.
var (
	ErrNoItem  = errors.New("this item is no longer in the menu")
	ErrFull    = fmt.Errorf("a menu holds at most %d items of its own; take some out first", MostItems)
	ErrInside  = errors.New("an item cannot go below itself")
	ErrHolds   = errors.New("nothing can go below a divider or below the pages of a branch")
	ErrURL     = errors.New("an outside link needs an address that begins with https://")
	ErrWords   = errors.New("a label needs a text")
	ErrNoPlace = errors.New("there is no place for it in that direction")
	ErrLevels  = errors.New("say how many levels as a number from 1 to 9")
)

// LongLabelError says that a label is too long.
type LongLabelError struct{ Has int }

func (e *LongLabelError) Error() string {
	return fmt.Sprintf("a label takes at most %d characters; this has %d", LongestLabel, e.Has)
}

// check holds an item against what a menu can show.
func (it *ItemOverride) check() error {
	it.Title = strings.Join(strings.Fields(it.Title), " ")
	if it.URL = strings.TrimSpace(it.URL); it.Kind != Link {
		it.URL = ""
	}
	if !slices.Contains(content.Symbols(), it.Symbol) {
		it.Symbol = ""
	}
	switch n := utf8.RuneCountInString(it.Title); {
	case n > LongestLabel:
		return &LongLabelError{n}
	case n == 0 && (it.Kind == Label || it.Kind == Link):
		return ErrWords
	case it.Kind == Link && !address.IsURL(it.URL):
		return ErrURL
	case it.Levels < Nothing || it.Levels > 9:
		return ErrLevels
	}
	return nil
}

// Typed is the item that words make which somebody typed where pages are found: an
// address makes an outside link, other words a label.
func Typed(words string) (ItemOverride, bool) {
	words = strings.Join(strings.Fields(words), " ")
	switch u, err := url.Parse(words); {
	case words == "":
		return ItemOverride{}, false
	case address.IsURL(words) && err == nil:
		return ItemOverride{Kind: Link, Title: strings.TrimSuffix(u.Host+u.Path, "/"), URL: words}, true
	}
	return ItemOverride{Kind: Label, Title: words}, true
}

// clone copies an Own, so that it can be changed.
func (o Overrides) clone() Overrides {
	o.Items = maps.Clone(o.Items)
	if o.Items == nil {
		o.Items = map[string]ItemOverride{}
	}
	order := make(map[string][]string, len(o.Order))
	for k, list := range o.Order {
		order[k] = slices.Clone(list)
	}
	o.Order = order
	return o
}

// IsZero tells whether nothing is left of what was taken over.
func (o Overrides) IsZero() bool {
	return o.Of == "" && o.Levels == 0 && !o.AZ && !o.Wait && len(o.Items) == 0 && len(o.Order) == 0
}

// shed takes a key out of every arrangement.
func (o Overrides) shed(key string) {
	for p, list := range o.Order {
		if i := slices.Index(list, key); i >= 0 {
			o.Order[p] = slices.Delete(list, i, i+1)
		}
		if len(o.Order[p]) == 0 {
			delete(o.Order, p)
		}
	}
}

// own counts the items that are the editor's.
func (o Overrides) own() (n int) {
	for _, it := range o.Items {
		if it.Kind != "" {
			n++
		}
	}
	return n
}

// Entries lists the entries that the editor's own items lead to, by key, and at
// "" the one whose children the menu shows.
func (o Overrides) Entries() map[string]string {
	out := map[string]string{}
	if o.Of != "" {
		out[""] = o.Of
	}
	for k, it := range o.Items {
		if it.Kind == AnEntry || it.Kind == Children {
			out[k] = it.Entry
		}
	}
	return out
}

// Replaced makes what speaks of one entry speak of another: items of the
// editor's lead there, and what is said about the computed item is taken over
// where nothing is said about the other.
func (o Overrides) Replaced(gone, kept string) (Overrides, bool) {
	did := false
	n := o.clone()
	for k, it := range o.Items {
		if it.Kind != "" && it.Entry == gone {
			it.Entry, did = kept, true
			n.Items[k] = it
		}
	}
	if n.Of == gone {
		n.Of, did = kept, true
	}
	return n, did
}

// nature is how a menu is before anything is said about it.
type nature struct {
	levels int // computed
	shows  int // levels that readers get
}

func natureOf(id string) nature {
	switch id {
	case Top:
		return nature{1, 3}
	case Foot:
		return nature{Nothing, 2}
	}
	return nature{all, all}
}

// Shows is how many levels of a menu readers get at most; 0: as many as there are.
func Shows(id string) int {
	if n := natureOf(id).shows; n < all {
		return n
	}
	return 0
}

// all levels there can be.
const all = sitemap.MaxRows
