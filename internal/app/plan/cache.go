package plan

import "sync"

// CachedValue names what an instance caches of the work.
type CachedValue uint8

// What is cached.
const (
	CachedTrees CachedValue = iota
	CachedRedirects
	CachedLivePages
	CachedDrafts
	CachedReach
	CachedChecks
	CachedNextEdition
	CachedSelections
	CachedHistory
	CachedHistoricalAddresses
	CachedOldSite
	CachedPreview
	CachedSharedPreview
	cachedCount
)

// CacheRow describes one cache: what a value holds, the parts of the work it depends on, and how many
// values are cached at most.
type CacheRow struct {
	Holds string
	Parts []Part
	Bound int
}

// caches is the table of all caches of the work. A value is used while the numbers of its parts are what
// they were when it was made; nothing else decides that it is true.
var caches = [cachedCount]CacheRow{
	CachedTrees:               {"Live and Next, with menus, trails and templates", []Part{PartEntries, PartShapes, PartEditions}, 1},
	CachedRedirects:           {"the redirects of Live", []Part{PartEditions}, 1},
	CachedLivePages:           {"what lists and checks need of live pages", []Part{PartEditions}, 1},
	CachedDrafts:              {"what lists and checks need of drafts", []Part{PartDrafts, PartEditions}, 1},
	CachedReach:               {"the clicks to each page of Next", []Part{PartEntries, PartShapes, PartDrafts, PartEditions}, 1},
	CachedChecks:              {"what the checks of the sitemap find", []Part{PartEntries, PartShapes, PartEditions, PartPeople}, 1},
	CachedNextEdition:         {"the next edition with all that is planned", Parts(), 1},
	CachedSelections:          {"the next edition as people selected it", Parts(), 4},
	CachedHistory:             {"what has to answer, and what it answers in Live", []Part{PartFiles, PartOldSites, PartEditions}, 1},
	CachedHistoricalAddresses: {"every address that answered in an edition", []Part{PartEditions}, 1},
	CachedOldSite:             {"the matches of the addresses of an old site", []Part{PartOldSites, PartEntries, PartShapes, PartEditions}, 1},
	CachedPreview:             {"the site as it is previewed, of Next and of Live", []Part{PartEntries, PartShapes, PartEditions, PartPeople}, 2},
	CachedSharedPreview:       {"Next or an edition as somebody sees it by a link", Parts(), 12},
}

// Caches gives the table of all caches.
func Caches() []CacheRow { return caches[:] }

// Cache holds the last values of one kind. A value belongs to a site, the versions of the parts it
// depends on, and a key for what else it was made from: a day, a selection. It may be used by many at
// once, so what it holds must not be changed.
type Cache[T any] struct {
	row CacheRow

	mu   sync.Mutex
	list []cached[T] // the last one first
}

type cached[T any] struct {
	site, key string
	work      WorkVersions
	value     T
}

// NewCache makes an empty cache of a row of the table.
func NewCache[T any](of CachedValue) *Cache[T] { return &Cache[T]{row: caches[of]} }

// Get gives the value for a state of the site.
func (c *Cache[T]) Get(s Site, key string) (value T, ok bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for _, v := range c.list {
		if v.site == s.ID && v.key == key && v.work.Same(s.Work, c.row.Parts) {
			return v.value, true
		}
	}
	return value, false
}

// Earlier gives the last value of a site and how its work stood then, for values that are made from
// an earlier one and what changed since.
func (c *Cache[T]) Earlier(s Site, key string) (value T, work WorkVersions, ok bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for _, v := range c.list {
		if v.site == s.ID && v.key == key && !v.work.After(s.Work, c.row.Parts) {
			return v.value, v.work, true
		}
	}
	return value, work, false
}

// Put caches a value that was made from what a transaction read, if all of that is of one committed
// moment. A later value is not replaced by an earlier one.
func (c *Cache[T]) Put(tx Tx, s Site, key string, value T) {
	if tx.Steady() {
		c.PutRead(s, key, value)
	}
}

// PutRead caches a value that was made from what a reading transaction gave before it ended.
func (c *Cache[T]) PutRead(s Site, key string, value T) {
	c.mu.Lock()
	defer c.mu.Unlock()
	list := []cached[T]{{s.ID, key, s.Work, value}}
	for _, v := range c.list {
		same := v.site == s.ID && v.key == key
		if same && v.work.After(s.Work, c.row.Parts) {
			return
		}
		if !same || !v.work.Same(s.Work, c.row.Parts) {
			list = append(list, v)
		}
	}
	c.list = list[:min(len(list), c.row.Bound)]
}
