package app_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sheet"
	"candlepath/internal/markup"
)

// A large edition is published by a job, once however often that runs or the form is sent, and who
// wanted it is told; where something changed since they looked, it is not.
func TestLargeEditions(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	many := func(name string) {
		var csv strings.Builder
		fmt.Fprintf(&csv, "level,title\n1,%s\n", name)
		for i := range 2100 {
			fmt.Fprintf(&csv, "2,%s %d\n", name, i)
		}
		d.bring("marta", sheet.Update, csv.String())
	}
	publish := func(key string) (plan.Edition, string, error) {
		_, form := d.own("marta")
		return d.PublishChosen(ctx, marta, editions.PublishAsk{Key: key, Why: "Many beds", Form: &form})
	}
	d.write("ines", d.id("/grounds/ponds"), "Frogs.")
	e, later, err := publish(uuid.NewString())
	require.NoError(t, err)
	require.Empty(t, later, "a small one goes at once")
	before := e.Number

	many("Bed")
	key := uuid.NewString()
	_, later, err = publish(key)
	require.NoError(t, err)
	require.Equal(t, key, later)
	_, again, err := publish(key)
	require.NoError(t, err)
	require.Equal(t, key, again, "sent twice")
	l, err := d.LargeEdition(ctx, marta, key)
	require.NoError(t, err)
	require.Equal(t, editions.LargeWaiting, l.State)
	require.Greater(t, l.Changes, 2000)
	_, err = d.LargeEdition(ctx, d.people["anselm"], key)
	require.ErrorIs(t, err, plan.ErrNotFound)
	for range 2 {
		require.NoError(t, d.PublishLarge(ctx, key))
	}
	require.NoError(t, d.PublishLarge(ctx, uuid.NewString()), "of nothing")
	after, why := d.edition()
	require.Equal(t, before+1, after)
	require.Equal(t, "Many beds", why)
	l, err = d.LargeEdition(ctx, marta, key)
	require.NoError(t, err)
	require.Equal(t, editions.LargeOut, l.State)
	require.Equal(t, after, l.Edition)
	require.Contains(t, d.inbox("marta")[0], fmt.Sprintf("Edition %d is live", after))

	many("Pot")
	key = uuid.NewString()
	_, later, err = publish(key)
	require.NoError(t, err)
	require.Equal(t, key, later)
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: d.nextID("Pot 7"), Value: "Pot seven"})
	require.NoError(t, d.PublishLarge(ctx, key))
	still, _ := d.edition()
	require.Equal(t, after, still)
	l, err = d.LargeEdition(ctx, marta, key)
	require.NoError(t, err)
	require.Equal(t, editions.LargeStopped, l.State)
	require.Contains(t, l.Problem, "changed since you opened")
	require.Contains(t, strings.Join(d.inbox("marta"), " "), "was not published")
}

// nextID gives the entry of Next with a title.
func (d *desk) nextID(title string) string {
	next := d.next()
	for i := range next.Len() {
		if next.Ref(i).Title == title {
			return next.Ref(i).ID
		}
	}
	require.Fail(d.t, "no entry", title)
	return ""
}

// beds publishes as many pages of one template, each with a text.
func (d *desk) beds(n int) {
	d.t.Helper()
	var csv strings.Builder
	csv.WriteString("level,title,template\n1,Beds,procedure\n")
	for i := range n {
		fmt.Fprintf(&csv, "2,Bed %d,procedure\n", i)
	}
	d.bring("marta", sheet.Update, csv.String())
	_, err := d.pool.Exec(d.t.Context(), `WITH made AS (
			INSERT INTO page_versions (id, site_id, entry_id, content, body, outline, slots, report, excerpt, version, person_id, changed_at)
			SELECT gen_random_uuid(), v.site_id, e.entry_id, v.content, v.body, v.outline, v.slots, v.report, v.excerpt, 1, v.person_id, v.changed_at
			FROM (SELECT * FROM page_versions WHERE entry_id = $1 ORDER BY changed_at DESC LIMIT 1) v, entry_rows e
			WHERE e.title LIKE 'Bed%' RETURNING id, site_id, entry_id)
		, words AS (INSERT INTO page_words (version_id, plain) SELECT id, 'About beds' FROM made)
		INSERT INTO page_spans (site_id, entry_id, version_id) SELECT site_id, entry_id, id FROM made`, d.id("/grounds/compost"))
	require.NoError(d.t, err)
	d.publish("marta", "Many beds")
}

// relay plans another text of what all pages of a template show, and asks for the large edition that brings it out.
func (d *desk) relay(text string) (key string) {
	d.t.Helper()
	require.Empty(d.t, d.draftTemplate("marta", "procedure", func(t *content.Template) { t.Parts[0].Content[0].Text = text }))
	_, err := d.planTemplate("marta", "procedure")
	require.NoError(d.t, err)
	_, form := d.own("marta")
	key = uuid.NewString()
	_, later, err := d.PublishChosen(d.t.Context(), d.people["marta"], editions.PublishAsk{Key: key, Why: "Another form", Form: &form})
	require.NoError(d.t, err)
	require.Equal(d.t, key, later)
	return key
}

// fails makes the database refuse to write to a table for the while that something is done.
func (d *desk) fails(table, when string, do func()) {
	d.t.Helper()
	exec := func(sql string) {
		_, err := d.pool.Exec(d.t.Context(), sql)
		require.NoError(d.t, err)
	}
	exec(fmt.Sprintf(`CREATE FUNCTION cut_off() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN IF %s THEN RAISE EXCEPTION 'cut off'; END IF; RETURN NULL; END $$;
		CREATE TRIGGER cut_off AFTER INSERT ON %s FOR EACH STATEMENT EXECUTE FUNCTION cut_off()`, when, table))
	do()
	exec(fmt.Sprintf(`DROP TRIGGER cut_off ON %s; DROP FUNCTION cut_off()`, table))
}

// ahead gives when each page that is rendered ahead was.
func (d *desk) ahead() map[string]time.Time {
	d.t.Helper()
	rows, err := d.pool.Query(d.t.Context(), `SELECT version_id::text, at FROM rendered_ahead`)
	require.NoError(d.t, err)
	out := map[string]time.Time{}
	var id string
	var at time.Time
	_, err = pgx.ForEachRow(rows, []any{&id, &at}, func() error { out[id] = at; return nil })
	require.NoError(d.t, err)
	return out
}

// A large edition that is cut off goes on where it was: what it rendered is not rendered again.
func TestALargeEditionGoesOnWhereItWas(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	d.beds(420)
	before, _ := d.edition()
	key := d.relay("Wear gloves.")
	d.fails("rendered_ahead", "(SELECT count(*) FROM rendered_ahead) > 250", func() { require.ErrorContains(t, d.PublishLarge(ctx, key), "cut off") })
	first := d.ahead()
	require.Len(t, first, 250)
	l, err := d.LargeEdition(ctx, marta, key)
	require.NoError(t, err)
	require.Equal(t, 250, l.Done, "it says how far it is, of %d", l.Total)
	d.restart()
	d.fails("editions", "true", func() { require.ErrorContains(t, d.PublishLarge(ctx, key), "cut off") })
	second := d.ahead()
	require.Greater(t, len(second), 420)
	for id, at := range first {
		require.Equal(t, at, second[id], "rendered once")
	}
	still, _ := d.edition()
	require.Equal(t, before, still)
	d.restart()
	require.NoError(t, d.PublishLarge(ctx, key))
	after, _ := d.edition()
	require.Equal(t, before+1, after)
	require.Empty(t, d.ahead(), "what is out is not kept twice")
	require.Contains(t, d.body(d.id("/beds/bed-7")), "Wear gloves.")
}

// What was rendered ahead goes out only while all that it was made of is so still.
func TestRenderedAheadIsStillTrue(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	d.beds(410)
	require.Empty(t, d.draftTemplate("marta", "procedure", func(t *content.Template) {
		t.Parts = append(t.Parts, content.Part{Kind: content.Facts, Fields: []content.Field{{Key: "asks", Label: "Ask", Type: content.FieldPerson}}})
	}))
	_, err := d.planTemplate("marta", "procedure")
	require.NoError(t, err)
	withPerson := page("Turn it often.")
	withPerson.Fields = map[string]string{"asks": d.people["ines"].ID}
	d.writePage("marta", d.id("/grounds/compost"), withPerson)
	d.publish("marta", "Who to ask")
	const spoiled = "What nobody wrote."
	of := func(addr string) string { return d.body(d.id(addr)) }
	for _, c := range []struct {
		name      string
		meanwhile func()
		anew      []string // pages that are rendered again
		as        []string // pages that go out as they were rendered ahead
	}{
		{"nothing", func() {}, nil, []string{"/beds/bed-1", "/grounds/compost"}},
		{"a draft", func() { d.write("marta", d.id("/beds/bed-1"), "Not often.") }, []string{"/beds/bed-1"}, []string{"/beds/bed-2"}},
		{"the template again", func() {
			require.Empty(t, d.draftTemplate("marta", "procedure", func(t *content.Template) { t.Parts[0].Content[0].Text = "Ask twice." }))
			_, err := d.planTemplate("marta", "procedure")
			require.NoError(t, err)
		}, []string{"/beds/bed-1", "/grounds/compost"}, nil},
		{"a name", func() {
			_, err := d.pool.Exec(ctx, `UPDATE people SET name = name || ' the second' WHERE id = $1`, d.people["ines"].ID)
			require.NoError(t, err)
		}, []string{"/grounds/compost"}, []string{"/beds/bed-11"}},
		{"a restore", func() {
			e, _ := d.edition()
			_, err := d.Rollback(ctx, marta, uuid.NewString(), e-1, "No")
			require.NoError(t, err)
		}, []string{"/beds/bed-1"}, nil},
	} {
		t.Log(c.name)
		key := d.relay("Instead of " + c.name)
		d.fails("editions", "true", func() { require.ErrorContains(t, d.PublishLarge(ctx, key), "cut off") })
		require.Greater(t, len(d.ahead()), 410)
		_, err = d.pool.Exec(ctx, `UPDATE rendered_ahead SET body = $1`, markup.New().Zip("<p>"+spoiled+"</p>"))
		require.NoError(t, err)
		c.meanwhile()
		d.restart()
		d.publish("marta", "Now")
		for _, addr := range c.anew {
			require.NotContains(t, of(addr), spoiled, addr)
		}
		for _, addr := range c.as {
			require.Contains(t, of(addr), spoiled, addr)
		}
		_, err = d.pool.Exec(ctx, `DELETE FROM rendered_ahead`)
		require.NoError(t, err)
		d.relay("Well again after " + c.name)
		d.publish("marta", "Well again")
		require.NotContains(t, of("/beds/bed-1"), spoiled)
	}
}
