package app_test

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/match"
	"candlepath/internal/core/redirect"
)

// olderLines imports addresses of an older site.
func (d *desk) olderLines(host string, lines ...[2]string) addresses.ImportedOlder {
	d.t.Helper()
	var l match.List
	for i, line := range lines {
		l.Add(i+1, line[0], line[1], "", "", 10*(len(lines)-i))
	}
	done, err := d.ImportOlder(d.t.Context(), d.people["ines"], &l, host)
	require.NoError(d.t, err)
	return done
}

func (d *desk) olderStates(host string) (out []match.State) {
	d.t.Helper()
	w, err := d.Older(d.t.Context(), d.people["ines"], host)
	require.NoError(d.t, err)
	return w.States
}

// Decisions on an older site are redirects of the next edition; the list that comes again
// decides nothing anew, and two older sites stand side by side.
func TestOlderSites(t *testing.T) {
	d := newDesk(t)
	ctx, ines := t.Context(), d.people["ines"]
	done := d.olderLines("Old.Quillmere.example", [2]string{"/wasser/pond.html", "Ponds"}, [2]string{"/wasser/x17.html", ""}, [2]string{"/grounds", ""}, [2]string{"/zzz", "Qqq"})
	require.Equal(t, addresses.ImportedOlder{Host: "old.quillmere.example", Fresh: 4}, done)
	require.Equal(t, []match.State{match.Clear, match.Open, match.Led, match.Far}, d.olderStates(""), "what a page has already is answered")
	require.Equal(t, 1, d.olderLines("wiki.quillmere.example", [2]string{"/Main", "Main page"}).Fresh)
	require.Len(t, d.olderStates("wiki.quillmere.example"), 1)

	res, err := d.AcceptOlder(ctx, ines, uuid.NewString(), "old.quillmere.example")
	require.NoError(t, err)
	require.Equal(t, "redirected /wasser/pond.html", res.Label)
	_, err = d.AcceptOlder(ctx, ines, uuid.NewString(), "old.quillmere.example")
	require.ErrorContains(t, err, "clear winner")
	_, err = d.DecideOlder(ctx, ines, uuid.NewString(), "old.quillmere.example", map[string]string{"/zzz": "gone"})
	require.NoError(t, err)
	_, err = d.DecideFolder(ctx, ines, uuid.NewString(), "old.quillmere.example", "/wasser/", d.id("/grounds"), false)
	require.NoError(t, err)
	_, err = d.DecideFolder(ctx, ines, uuid.NewString(), "old.quillmere.example", "/", d.id("/grounds"), false)
	require.ErrorContains(t, err, "Choose a folder")
	settled := []match.State{match.Led, match.Led, match.Led, match.OnPurpose}
	require.Equal(t, settled, d.olderStates(""))

	t.Log("the list comes again, with a title and more visits: nothing is decided twice")
	require.Equal(t, 4, d.olderLines("old.quillmere.example", [2]string{"/zzz", "Another"}, [2]string{"/wasser/pond.html", ""}, [2]string{"/grounds", ""}, [2]string{"/wasser/x17.html", "Ponds"}).Known)
	w, err := d.Older(ctx, ines, "")
	require.NoError(t, err)
	require.Equal(t, "Another", w.Lines[0].Title)
	require.Equal(t, "Ponds", w.Lines[w.At("/wasser/pond.html")].Title, "a list without titles takes none away")
	require.Equal(t, match.OnPurpose, w.States[0])

	d.publish("marta", "The old site is answered")
	_, live := d.live(), d.live().Table
	got := live.ResolveNormal("/wasser/anything", "")
	require.Equal(t, []any{301, "/grounds"}, []any{got.Code, got.Location})
	rows, err := d.RulesTable(ctx, ines, addresses.RulesAsk{Live: true, Host: "old.quillmere.example", Base: true})
	require.NoError(t, err)
	require.Contains(t, rows, redirect.Row{From: "/grounds", To: redirect.Target{Address: "/grounds"}, Code: 301, Match: redirect.Exact, Status: redirect.Kept})
	require.NoError(t, d.DropOlder(ctx, ines, "old.quillmere.example"))
	_, err = d.Older(ctx, ines, "old.quillmere.example")
	require.ErrorIs(t, err, plan.ErrNotFound, "one site never stands for another")
	w, err = d.Older(ctx, ines, "")
	require.NoError(t, err)
	require.Equal(t, "wiki.quillmere.example", w.Host)

	t.Log("who only reads may do nothing of it")
	_, err = d.Older(ctx, ines, "elsewhere.quillmere.example")
	require.ErrorIs(t, err, plan.ErrNotFound, "another site is neither shown")
	_, err = d.AcceptOlder(ctx, ines, uuid.NewString(), "elsewhere.quillmere.example")
	require.ErrorIs(t, err, plan.ErrNotFound, "nor decided for")
	_, err = d.DecideOlder(ctx, ines, uuid.NewString(), "elsewhere.quillmere.example", map[string]string{"/x.html": "gone"})
	require.ErrorIs(t, err, plan.ErrNotFound)
	_, err = d.Older(ctx, plan.Person{ID: ines.ID, Role: "reader"}, "")
	require.ErrorIs(t, err, plan.ErrForbidden)
	require.ErrorIs(t, d.DropOlder(ctx, plan.Person{ID: ines.ID, Role: "reader"}, "x"), plan.ErrForbidden)
	_, err = d.ImportOlder(ctx, ines, &match.List{Lines: []match.Line{{}}}, "")
	require.ErrorContains(t, err, "host")
}

// What was carried from an older site is linked to it by itself, unless it was decided otherwise.
func TestCarriedPagesAreLinked(t *testing.T) {
	d := newDesk(t)
	ctx, ines := t.Context(), d.people["ines"]
	for _, source := range []string{"http://old.quillmere.example/Water/Ponds.html", "http://old.quillmere.example/compost.asp?id=2"} {
		id := d.id("/grounds/ponds")
		if source[len(source)-1] == '2' {
			id = d.id("/grounds/compost")
		}
		d.act("marta", appsitemap.PlanAct{Do: "fact", ID: id, Field: "kind", Value: "carried"})
		d.act("marta", appsitemap.PlanAct{Do: "fact", ID: id, Field: "source", Value: source})
	}
	_, err := d.redirects("ines", "/compost.asp?id=2,/visitors")
	require.NoError(t, err)
	done := d.olderLines("old.quillmere.example", [2]string{"/water/ponds.html", ""}, [2]string{"/compost.asp?id=2", ""})
	require.Equal(t, 1, done.Carried)
	w, err := d.Older(ctx, ines, "")
	require.NoError(t, err)
	require.Equal(t, []string{"/grounds/ponds", "/visitors"}, []string{w.Next[0].Location, w.Next[1].Location})
	require.Zero(t, d.olderLines("old.quillmere.example", [2]string{"/water/ponds.html", ""}).Carried, "not again")
}

// A list goes on behind the request. What takes long ends in a notice; what is cut off begins
// again; and what cannot be read is told.
func TestListsOfOlderSitesOnTheirWay(t *testing.T) {
	d := newDesk(t)
	ctx, ines := t.Context(), d.people["ines"]
	const text = "/wasser/pond.html\n/wasser/x17.html\n"
	read := func(_ string, r io.Reader) (*match.List, error) {
		all, err := io.ReadAll(r)
		if err != nil {
			return nil, err
		}
		var l match.List
		for i, line := range strings.Fields(string(all)) {
			l.Add(i+1, line, "", "", "", 1)
		}
		return &l, nil
	}
	put := func(host string) string {
		id, err := d.PutOlder(ctx, ines, "list.csv", host, strings.NewReader(text))
		require.NoError(t, err)
		return id
	}
	state := func(id string) addresses.OlderImport {
		i, err := d.OlderImport(ctx, ines, id)
		require.NoError(t, err)
		return i
	}
	notices := func() []plan.Notice {
		list, err := d.Inbox(ctx, ines)
		require.NoError(t, err)
		return list
	}
	t.Log("the process that reads it ends: nothing of it was taken, and it begins again")
	id := put("old.quillmere.example")
	require.Equal(t, addresses.OlderReading, state(id).State)
	cut, end := context.WithCancel(ctx)
	require.ErrorIs(t, d.ReadOlder(cut, id, func(name string, r io.Reader) (*match.List, error) {
		end()
		return read(name, r)
	}), context.Canceled)
	require.Equal(t, addresses.OlderReading, state(id).State)
	d.now = d.now.Add(time.Minute)
	require.NoError(t, d.ReadOlder(ctx, id, read))
	require.Equal(t, "2 addresses were read: 2 new.", state(id).Said)
	require.Len(t, d.olderStates("old.quillmere.example"), 2)
	require.Equal(t, []string{"list.csv: 2 addresses were read: 2 new."}, wordsOf(notices()), "it took long")
	require.NoError(t, d.ReadOlder(ctx, id, read), "a job that comes twice does nothing")

	t.Log("a short one tells nothing afterwards; one without a host, one that cannot be read, and a lost one are refused")
	require.NoError(t, d.ReadOlder(ctx, put("old.quillmere.example"), read))
	require.Len(t, notices(), 1)
	without := put("")
	require.NoError(t, d.ReadOlder(ctx, without, read))
	require.Equal(t, addresses.OlderRefused, state(without).State)
	require.Contains(t, state(without).Said, "does not tell the host")
	broken := put("old.quillmere.example")
	require.NoError(t, d.ReadOlder(ctx, broken, func(string, io.Reader) (*match.List, error) { return nil, errors.New("line 7 has a broken quote") }))
	require.Equal(t, "Line 7 has a broken quote.", state(broken).Said)
	lost := put("old.quillmere.example")
	require.NoError(t, d.Objects.Delete(ctx, "older/"+lost))
	require.NoError(t, d.ReadOlder(ctx, lost, read))
	require.Contains(t, state(lost).Said, "Import it again")

	t.Log("what is left of a list is swept after a day")
	left := put("old.quillmere.example")
	d.now = time.Now().Add(25 * time.Hour)
	require.NoError(t, d.SweepOlder(ctx))
	_, _, err := d.Objects.Get(ctx, "older/"+left)
	require.ErrorIs(t, err, fs.ErrNotExist)
	_, err = d.PutOlder(ctx, plan.Person{ID: ines.ID, Role: "reader"}, "list.csv", "", strings.NewReader(text))
	require.ErrorIs(t, err, plan.ErrForbidden)
	_, err = d.PutOlder(ctx, ines, "list.csv", "https://old/", strings.NewReader(text))
	require.ErrorContains(t, err, "name of the older site")
}

func wordsOf(list []plan.Notice) (out []string) {
	for _, n := range list {
		out = append(out, n.Words)
	}
	return out
}

// What two older sites, or one of them and the site itself, have at the same address is told apart
// by the host name: each leads where it was decided, and so do the rules for its machine.
func TestOlderSitesWithTheSameAddresses(t *testing.T) {
	d := newDesk(t)
	ctx, ines := t.Context(), d.people["ines"]
	const old, wiki = "old.quillmere.example", "wiki.quillmere.example"
	for _, host := range []string{old, wiki} {
		d.olderLines(host, [2]string{"/main.html", "Main"}, [2]string{"/grounds", "Grounds"}, [2]string{"/map?p=1", ""})
	}
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	decide := func(host, from, to string) {
		_, err := d.DecideOlder(ctx, ines, uuid.NewString(), host, map[string]string{from: to})
		require.NoError(t, err, "%s%s", host, from)
	}
	decide(old, "/main.html", "page:"+ponds)
	decide(old, "/map?p=1", "page:"+ponds)
	decide(wiki, "/main.html", "page:"+compost)
	decide(wiki, "/map?p=1", "page:"+compost)
	decide(wiki, "/grounds", "page:"+compost)
	decide(wiki, "/grounds", "gone")
	d.publish("marta", "Both old sites")
	answers := func() (out []string) {
		table := d.live().Table
		for _, at := range []string{"https://" + old + "/main.html", "https://" + wiki + "/Main.html", "/main.html", "https://" + old + "/map?p=1", "https://" + wiki + "/map?p=1", "https://" + old + "/grounds", "https://" + wiki + "/grounds", "/grounds"} {
			a := table.Resolve(at)
			out = append(out, fmt.Sprint(a.Code, " ", a.Location))
		}
		return out
	}
	require.Equal(t, []string{"301 /grounds/ponds", "301 /grounds/compost", "301 /grounds/ponds", "301 /grounds/ponds", "301 /grounds/compost", "200 ", "410 ", "200 "}, answers())
	rules := func(host string) (out []string) {
		rows, err := d.RulesTable(ctx, ines, addresses.RulesAsk{Live: true, Host: host, Base: true})
		require.NoError(t, err)
		for _, r := range rows {
			if r.From == "/main.html" || r.From == "/grounds" {
				out = append(out, r.From+" "+r.To.Address)
			}
			require.NotContains(t, r.From, "//")
		}
		slices.Sort(out)
		return out
	}
	require.Equal(t, []string{"/grounds /grounds", "/main.html /grounds/ponds"}, rules(old))
	require.Equal(t, []string{"/grounds ", "/main.html /grounds/compost"}, rules(wiki))

	t.Log("a page that moves takes them along, and every one is proved")
	d.act("ines", appsitemap.PlanAct{Do: "move", ID: compost, Parent: d.id("/visitors")})
	n := d.look("marta")
	require.True(t, n.Proof.Holds())
	d.publish("marta", "Compost moved")
	require.Equal(t, []string{"301 /grounds/ponds", "301 /visitors/compost", "301 /grounds/ponds", "301 /grounds/ponds", "301 /visitors/compost", "200 ", "410 ", "200 "}, answers())
}
