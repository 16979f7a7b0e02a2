package sitemap

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// MaxFilled is the most entries that are given values in one act.
const MaxFilled = 5_000

// fieldWords are the facts of an entry that an act can change, in words.
var fieldWords = map[string]string{
	"title": "title", "kind": "kind", "slug": "slug", "short": "short title", "owner": "owner", "template": "template", "listed": "place in menus", "notes": "notes",
	"review": "review date", "readership": "readership", "topics": "topics", "target": "target", "source": "source",
}

func changeFact(t *sitemap.Tree, ids []string, field, value string) (*sitemap.Tree, error) {
	values := make(map[string]string, len(ids))
	for _, id := range ids {
		values[id] = value
	}
	return fillFacts(t, field, values)
}

// fillFacts gives each of several entries a value of its own; all or none
// change.
func fillFacts(t *sitemap.Tree, field string, values map[string]string) (*sitemap.Tree, error) {
	clean := make(map[string]string, len(values))
	for id, v := range values {
		i := t.Find(id)
		if i == sitemap.None {
			return nil, sitemap.ErrNoEntry
		}
		var err error
		if clean[id], err = readFact(t.Ref(i), field, strings.TrimSpace(v)); err != nil {
			return nil, err
		}
	}
	return t.ChangeAll(slices.Sorted(maps.Keys(clean)), func(e *sitemap.Entry) { setFact(e, field, clean[e.ID]) })
}

// readFact checks what somebody typed as a fact of an entry.
func readFact(e *sitemap.Entry, field, v string) (string, error) {
	switch {
	case fieldWords[field] == "":
		return "", plan.Refuse("field", "This fact is not known.")
	case len(v) > 4000:
		return "", plan.Refuse(field, "This is too long; it takes at most 4,000 characters.")
	case field == "target" && e.Kind == sitemap.Outside && !address.IsURL(v):
		return "", plan.Refuse(field, "An outside link needs a URL that begins with https://.")
	case field == "review" && v != "":
		d, ok := sitemap.ParseDate(v)
		if !ok {
			return "", plan.Refuse(field, fmt.Sprintf("%q is no date. Write it like 2026-11-24.", v))
		}
		return d, nil
	case field == "slug" && v == "" && e.Kind.IsPage():
		return "", sitemap.ErrSlug
	case field == "topics":
		return sitemap.JoinTopics(v), nil
	case field == "title":
		return sitemap.CleanTitle(v), nil
	case field == "kind":
		k, ok := sitemap.ParseKind(v)
		if !ok {
			return "", plan.Refuse(field, fmt.Sprintf("%q is no kind of entry.", v))
		}
		return string(k), nil
	}
	return v, nil
}

// textFact is the field of a fact that is nothing but its text; nil for others.
func textFact(e *sitemap.Entry, field string) *string {
	switch field {
	case "short":
		return &e.Short
	case "owner":
		return &e.Owner
	case "template":
		return &e.Template
	case "notes":
		return &e.Notes
	case "review":
		return &e.Review
	case "readership":
		return &e.Readership
	case "topics":
		return &e.Topics
	case "target":
		return &e.Target
	case "source":
		return &e.Source
	}
	return nil
}

func setFact(e *sitemap.Entry, field, v string) {
	switch field {
	case "title":
		e.Retitle(v)
	case "kind":
		e.Turn(sitemap.Kind(v))
	case "slug":
		e.Slug, e.SlugHeld = v, true
	case "listed":
		e.Unlisted = sitemap.ParseNo(v)
	default:
		if at := textFact(e, field); at != nil {
			*at = v
		}
	}
}

// factOf gives a fact as setFact takes it.
func factOf(e *sitemap.Entry, field string) string {
	switch field {
	case "title":
		return e.Title
	case "listed":
		if e.Unlisted {
			return "no"
		}
		return "yes"
	}
	if at := textFact(e, field); at != nil {
		return *at
	}
	return ""
}
