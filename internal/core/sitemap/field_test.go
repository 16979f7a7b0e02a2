package sitemap

import (
	"reflect"
	"testing"

	"github.com/stretchr/testify/require"
)

// What an entry holds besides its fields: where it stands, and what follows.
var besideFields = []string{"ID", "Parent", "Rank", "SlugHeld", "Fixed", "Withdrawn"}

// Every member of Entry is reached by one field of the table, or is named above.
func TestTheTableOfFieldsIsComplete(t *testing.T) {
	reached := map[string]string{}
	for _, name := range besideFields {
		reached[name] = "beside"
	}
	keys := map[string]bool{}
	for _, f := range Fields() {
		require.False(t, keys[f.Key], f.Key)
		keys[f.Key] = true
		require.NotEmpty(t, f.Label, f.Key)
		require.NotEmpty(t, f.Words, f.Key)
		require.NotEmpty(t, f.Input, f.Key)
		require.Positive(t, f.Width, f.Key)
		from := Entry{Title: "a", Short: "b", Slug: "c", Kind: Group, Target: "d", Source: "e", Template: "f", Owner: "g", Unlisted: true, Topics: "h", Readership: "i", Review: "2026-01-02", Notes: "j"}
		var to Entry
		f.Copy(&to, &from)
		require.Equal(t, f.Get(&from), f.Get(&to), f.Key)
		changed := ""
		for i := range reflect.TypeFor[Entry]().NumField() {
			name := reflect.TypeFor[Entry]().Field(i).Name
			if !reflect.ValueOf(to).Field(i).IsZero() && reached[name] != "beside" {
				require.Empty(t, changed, "%s changes %s, too", f.Key, name)
				changed = name
			}
		}
		require.NotEmpty(t, changed, f.Key)
		require.Empty(t, reached[changed], "%s is reached twice", changed)
		reached[changed] = f.Key
	}
	require.Len(t, reached, reflect.TypeFor[Entry]().NumField())
}

func TestFill(t *testing.T) {
	tree, err := New([]Entry{{ID: "h", Title: "Home", Fixed: "/", Kind: Page}, {ID: "p", Title: "Ponds", Slug: "ponds", Kind: Page, Rank: "b"}, {ID: "o", Title: "Out", Kind: Outside, Target: "https://x.example", Rank: "c"}})
	require.NoError(t, err)
	known := Known{
		Template:   func(name string) (string, bool) { return "topic", name == "Topic page" },
		Readership: func(v string) (string, error) { return v, nil },
	}
	for _, c := range []struct{ id, field, typed, want, problem string }{
		{"p", "owner", " Gwen Hale ", "Gwen Hale", ""},
		{"p", "topics", "tea, cake ;tea", "tea; cake", ""},
		{"p", "review", "24.11.2026", "2026-11-24", ""},
		{"p", "review", "soon", "", `"soon" is not a date. Write it like 2026-11-24.`},
		{"p", "review", "", "", ""},
		{"p", "template", "Topic page", "topic", ""},
		{"p", "template", "Tropic", "", `There is no template "Tropic".`},
		{"p", "kind", "outside link", "outside", ""},
		{"p", "kind", "room", "", `"room" is not a kind of entry.`},
		{"p", "listed", "not listed", "no", ""},
		{"p", "slug", "", "", ErrSlug.Error()},
		{"o", "target", "ftp", "", "An outside link needs a URL that begins with https://."},
		{"p", "colour", "red", "", `There is no field "colour".`},
		{"x", "owner", "red", "", ErrNoEntry.Error()},
	} {
		next, err := tree.Fill(c.field, map[string]string{c.id: c.typed}, known)
		if c.problem != "" {
			require.EqualError(t, err, c.problem)
			continue
		}
		require.NoError(t, err)
		f, _ := FieldOf(c.field)
		require.Equal(t, c.want, f.Get(next.Ref(next.Find(c.id))), c.typed)
	}
}
