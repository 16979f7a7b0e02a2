package app_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
)

// taken is all of the plan as it goes out to a file, and its texts.
func (d *desk) taken() string {
	d.t.Helper()
	var b bytes.Buffer
	require.NoError(d.t, files.WriteSitemap("plan.json", &b, d.next(), ""))
	require.NoError(d.t, files.WriteSitemap("plan.csv", &b, d.next(), ""))
	for i := range d.next().Len() {
		if e := d.next().At(i); e.Kind.IsPage() {
			fmt.Fprintln(&b, e.ID, d.text(e.ID))
		}
	}
	n := d.look("marta")
	fmt.Fprintln(&b, n.Decisions) // fmt sorts maps
	require.NoError(d.t, json.NewEncoder(&b).Encode(n.Trees.Shapes.Next))
	return b.String()
}

// anyAct does one act at random, and tells whether it could be done.
func (d *desk) anyAct(login string, r *rand.Rand) bool {
	tree := d.next()
	pick := func() string { return tree.At(r.IntN(tree.Len())).ID }
	some := func() []string { return []string{pick(), pick(), pick()} }
	word := func() string {
		return fmt.Sprintf("%s %d", []string{"Rain", "Öl", "=Summe", "Бук"}[r.IntN(4)], r.IntN(30))
	}
	who, ctx := d.people[login], d.t.Context()
	acts := []appsitemap.PlanAct{
		{Do: "add", Parent: pick(), Value: word()},
		{Do: "paste", Parent: pick(), Value: word() + "\n\t" + word() + "\n" + word()},
		{Do: "retitle", ID: pick(), Value: word()},
		{Do: "fact", Field: "slug", ID: pick(), Value: fmt.Sprint("slug-", r.IntN(9))},
		{Do: "fact", Field: "kind", IDs: some(), Value: string(sitemap.Kinds()[r.IntN(len(sitemap.Kinds()))])},
		{Do: "fact", IDs: some(), Field: "topics", Value: word()},
		{Do: "facts", Field: "notes", Values: map[string]string{pick(): word(), pick(): word()}},
		{Do: "move", IDs: some(), Parent: pick(), Last: true},
		{Do: "move", ID: pick(), Parent: "", After: ""},
		{Do: "step", ID: pick(), Step: []sitemap.Step{sitemap.Up, sitemap.Down, sitemap.In, sitemap.Out}[r.IntN(4)]},
		{Do: "sort-all", ID: pick(), Value: []string{"", "date"}[r.IntN(2)]},
		{Do: "copy", ID: pick()},
		{Do: "refer", ID: pick(), Value: pick()},
		{Do: "withdraw", ID: pick()},
		{Do: "remove", ID: pick()},
		{Do: "mend", ID: pick(), Field: string(sitemap.Rules()[r.IntN(len(sitemap.Rules()))].Rule)},
	}
	switch n := r.IntN(len(acts) + 10); {
	case n < len(acts):
		if acts[n].Do == "remove" && r.IntN(3) > 0 {
			return false // the tree would not grow
		}
		_, err := d.try(login, acts[n])
		return err == nil
	case n < len(acts)+2:
		kept, gone := pick(), pick()
		if _, err := d.LookAtMerge(ctx, who, kept, gone); err != nil {
			return false
		}
		_, err := d.merge(login, kept, gone, func(a *appsitemap.MergeAsk) { a.Facts = []string{"title"} })
		return err == nil
	case n < len(acts)+6:
		return d.anyMenuAct(login, pick, word, r)
	case n < len(acts)+8:
		ask := appnavigation.TrailAct{Key: uuid.NewString(), Confirmed: true, Trail: shape.Trail{Title: word(), Pages: some()}}
		if all := d.look("marta").Trees.Shapes.Next.Trails(); len(all) > 0 && r.IntN(3) > 0 {
			ask.ID, ask.Remove = all[0].ID, r.IntN(4) == 0
		}
		_, err := d.PlanTrail(ctx, who, ask)
		return err == nil
	}
	entry := pick()
	look, err := d.LookAtSplit(ctx, who, entry)
	if err != nil || len(look.Pieces) < 2 {
		return false
	}
	_, err = d.Split(ctx, who, pages.SplitAsk{Key: uuid.NewString(), Entry: entry, Mark: look.Mark, Pieces: []int{1 + r.IntN(len(look.Pieces)-1)}, Title: word(), Beside: r.IntN(2) == 0})
	return err == nil
}

// anyMenuAct does one act on a menu.
func (d *desk) anyMenuAct(login string, pick, word func() string, r *rand.Rand) bool {
	trees := d.look("marta").Trees
	m := menu.For(trees.Next, trees.Shapes.Next.Menus())
	act := appnavigation.MenuAct{Menu: m.IDs()[r.IntN(len(m.IDs()))], Do: []string{"add", "add", "move", "step", "say", "out", "in", "back", "set"}[r.IntN(9)], Item: pick(), After: menu.Last}
	if lines := m.Layout(act.Menu).Lines(); len(lines) > 0 {
		act.Item = lines[r.IntN(len(lines))].Key
		if act.Do == "move" {
			act.Parent = lines[r.IntN(len(lines))].Key
		}
	}
	act.Step = []sitemap.Step{sitemap.Up, sitemap.Down, sitemap.In, sitemap.Out}[r.IntN(4)]
	act.Override = menu.ItemOverride{Kind: []menu.Kind{menu.AnEntry, menu.Children, menu.Label, menu.Divider}[r.IntN(4)], Entry: pick(), Title: word()}
	act.Settings = menu.Settings{Levels: r.IntN(3), AZ: r.IntN(2) == 0, Wait: r.IntN(3) == 0}
	_, err := d.tryMenu(login, act)
	return err == nil
}

// grown is a desk with texts that link to each other and can be split.
func grown(t *testing.T) *desk {
	d := newDesk(t)
	d.act("marta", appsitemap.PlanAct{Do: "paste", Parent: d.id("/grounds"), Value: "Machines\n\tMowers\n\tChipper\nOaks\n\tOld oak"})
	for _, a := range []string{"/grounds/machines", "/grounds/machines/mowers", "/grounds/oaks"} {
		d.write("marta", d.id(a), "Begin.\n\n## One of "+a+"\n\nSee [it](page:"+d.id("/grounds/ponds")+") and [there](#two).\n\n## Two\n\nEnd.")
	}
	d.publish("marta", "Machines and oaks")
	return d
}

// A hundred acts of any kind, reloaded and restarted, and all undone: the plan
// is what it was, byte for byte. All done again, it is what it became.
func TestAHundredActsAreUndone(t *testing.T) {
	for seed := range uint64(2) {
		d := grown(t)
		r := rand.New(rand.NewPCG(seed, 1))
		before := d.taken()
		done := 0
		for tries := 0; done < 100 && tries < 2000; tries++ {
			was := d.look("marta").Site.PlanVersion
			if d.anyAct("ines", r) && d.look("marta").Site.PlanVersion > was {
				done++
			}
		}
		require.Equal(t, 100, done)
		became := d.taken()
		require.NotEqual(t, before, became)
		d.restart()
		require.Equal(t, became, d.taken(), "reloaded")
		for range done {
			_, err := d.Undo(t.Context(), d.people["ines"])
			require.NoError(t, err)
		}
		_, err := d.Undo(t.Context(), d.people["ines"])
		require.ErrorIs(t, err, plan.ErrNothing)
		require.Equal(t, before, d.taken(), "undone, seed %d", seed)
		d.restart()
		for range done {
			d.now = d.now.Add(time.Second)
			_, err := d.Redo(t.Context(), d.people["ines"])
			require.NoError(t, err)
		}
		require.Equal(t, became, d.taken(), "done again")
	}
}

// Two planners by turns: each takes back their own, the later first where one
// stands in the way of the other, and the plan is what it was.
func TestTwoPlannersUndoTheirOwn(t *testing.T) {
	for seed := range uint64(2) {
		d := grown(t)
		r := rand.New(rand.NewPCG(seed, 2))
		before := d.taken()
		left := map[string]int{}
		for tries := 0; left["ines"]+left["anselm"] < 100 && tries < 2000; tries++ {
			login := []string{"ines", "anselm"}[r.IntN(2)]
			was := d.look("marta").Site.PlanVersion
			if d.anyAct(login, r) && d.look("marta").Site.PlanVersion > was {
				left[login]++
			}
		}
		require.Equal(t, 100, left["ines"]+left["anselm"])
		d.restart()
		refused := 0
		for left["ines"]+left["anselm"] > 0 {
			stuck := true
			for login := range left {
				_, err := d.Undo(t.Context(), d.people[login])
				switch {
				case err == nil:
					left[login]--
					stuck = false
				case errors.Is(err, plan.ErrNothing):
					require.Zero(t, left[login], login)
				default:
					refused++
				}
			}
			require.False(t, stuck, "neither can undo")
		}
		t.Log(refused, "times one stood in the way of the other")
		require.Equal(t, before, d.taken(), "seed %d", seed)
	}
}
